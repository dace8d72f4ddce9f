import type { Files, Source, StoredFile } from './store.js';

const PIECE_BYTES = 2 ** 20;

/** A whole small file. @param most bytes; a longer one is refused with `EFBIG` before it is read. @throws the store's error */
export async function readWhole(files: Files, name: string, most: number): Promise<Buffer> {
  const file = await files.open(name);
  try {
    if (file.size > most) throw Object.assign(new Error('too long'), { code: 'EFBIG' });
    const bytes = Buffer.alloc(file.size);
    return bytes.subarray(0, await fill(file, bytes, 0));
  } finally {
    file.close();
  }
}

/** Fills a buffer as far as the file goes. @returns bytes that were read */
export async function fill(file: StoredFile, into: Uint8Array, from: number): Promise<number> {
  let filled = 0;
  while (filled < into.length) {
    const count = await file.read(filled === 0 ? into : into.subarray(filled), from + filled);
    if (count === 0) break;
    filled += count;
  }
  return filled;
}

/** A whole file, piece by piece; each is overwritten by the next. @throws the store's error */
export async function* piecesOf(
  files: Files,
  name: string,
  { pieceBytes = PIECE_BYTES, from }: { pieceBytes?: number; from?: Source } = {},
): AsyncGenerator<Buffer> {
  const file = await files.open(name, from);
  try {
    yield* piecesOfFile(file, pieceBytes);
  } finally {
    file.close();
  }
}

/** The same of a file that is open, and stays so. */
export async function* piecesOfFile(
  file: StoredFile,
  pieceBytes = PIECE_BYTES,
): AsyncGenerator<Buffer> {
  const piece = Buffer.allocUnsafeSlow(Math.min(pieceBytes, Math.max(file.size, 1)));
  for (let at = 0; ;) {
    const count = await file.read(piece, at);
    if (count === 0) return;
    yield piece.subarray(0, count);
    at += count;
  }
}
