import { Failure } from '@bright-cellar/core';

/** A file that somebody chose; a part of it can be read. What a browser calls `File` is one. */
export interface Readable {
  size: number;
  slice(from: number, to: number): { arrayBuffer(): Promise<ArrayBuffer> };
}

/** The sealed folder: files by their names in it, such as `data/archive.json`. */
export type Folder = ReadonlyMap<string, Readable>;

const ARCHIVE_FILE = 'data/archive.json';

/**
 * The sealed folder among everything below a folder that somebody chose, wherever it lies there.
 * @param files by their paths below the folder, with `/` between their parts
 * @returns null where there is none
 */
export function sealedFolder(files: ReadonlyMap<string, Readable>): Folder | null {
  const paths = [...files.keys()].filter(
    (path) => path === ARCHIVE_FILE || path.endsWith(`/${ARCHIVE_FILE}`),
  );
  // The nearest: somebody may have chosen a whole drive.
  const [nearest] = paths.toSorted((a, b) => a.split('/').length - b.split('/').length);
  if (nearest === undefined) return null;
  const top = nearest.slice(0, -ARCHIVE_FILE.length);
  return new Map(
    [...files].flatMap(([path, file]) =>
      path.startsWith(top) ? [[path.slice(top.length), file] as const] : [],
    ),
  );
}

/** All of a file, where it is no longer than that. @throws Failure `archive-damaged` */
export async function whole(file: Readable | undefined, atMost: number): Promise<Uint8Array> {
  if (!file || file.size > atMost) throw new Failure('archive-damaged');
  return part(file, 0, file.size);
}

/** @throws Failure `rack-not-here` where the medium cannot be read: it was pulled out */
export async function part(file: Readable, from: number, to: number): Promise<Uint8Array> {
  let bytes: ArrayBuffer;
  try {
    bytes = await file.slice(from, to).arrayBuffer();
  } catch (cause) {
    throw new Failure('rack-not-here', STICK_GONE, { cause });
  }
  if (bytes.byteLength !== to - from) throw new Failure('archive-damaged');
  return new Uint8Array(bytes);
}

const STICK_GONE = {
  what: 'The stick cannot be read.',
  safe: 'What lies on it is as it was.',
  next: 'Plug it in again, then choose the folder once more.',
};
