import { createHash } from 'node:crypto';
import { isFinding, mustBeAsked } from '../disk/errors.js';
import { alignedBytes } from '../disk/medium-file.js';
import { entriesOf, type PackBlock } from '../format/chunk-index.js';
import { packName } from '../format/layout.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkOpener } from '../open/chunk-opener.js';
import { piecesOf } from '../store/read.js';
import type { Files } from '../store/store.js';
import { collectGarbage, COLLECT_EVERY_BYTES } from '../tools/collect.js';

/** Node's digests are fastest over pieces that stay in fast memory. */
const PIECE = 256 * 2 ** 10;

/** What a checking thread is asked. */
export type CheckTask =
  | { type: 'digest'; name: string }
  /** Every chunk of a pack, by its index. */
  | { type: 'pack'; block: PackBlock };

export interface CheckResult {
  /** SHA-512 of the file, hexadecimal; null when it cannot be read or is no plain file. */
  sha512: string | null;
  size: number;
  /** Ids of chunks that are not what was written, 32 bytes each; null when they were not looked at. */
  badChunks: Uint8Array | null;
}

/** A pack is not longer, and is read in one go: its digest and its chunks come from the same bytes. */
const PACK_MOST = 48 * 2 ** 20;

/** Checks files as they are on the medium. */
export class FileChecker {
  readonly #files: Files;
  readonly #key: ArchiveKey | null;
  /** Takes a pack. */
  #space = new Uint8Array(0);

  /** @param key needed for packs only. */
  constructor(files: Files, key: ArchiveKey | null) {
    this.#files = files;
    this.#key = key;
  }

  async check(task: CheckTask): Promise<CheckResult> {
    if (task.type === 'digest') return { ...(await this.#digest(task.name)), badChunks: null };
    const name = packName(task.block.pack);
    const read = await this.#read(name);
    const { sha512, size } = read ?? (await this.#digest(name));
    const files = read ? oneFile(read.bytes) : this.#files;
    return { sha512, size, badChunks: await this.#badChunksOf(task.block, files) };
  }

  async #digest(name: string): Promise<{ sha512: string | null; size: number }> {
    const hash = createHash('sha512');
    let size = 0;
    try {
      const pieces = piecesOf(this.#files, name, { pieceBytes: PIECE, from: 'medium' });
      for await (const piece of pieces) {
        hash.update(piece);
        size += piece.length;
      }
      return { sha512: hash.digest('hex'), size };
    } catch (error) {
      mustBeAsked(error);
      return { sha512: null, size: 0 };
    }
  }

  /** A whole pack and its digest; null where it cannot be read, or is none by its length. The next takes its place. */
  async #read(name: string): Promise<{ sha512: string; size: number; bytes: Uint8Array } | null> {
    const hash = createHash('sha512');
    try {
      const file = await this.#files.open(name, 'medium');
      try {
        if (file.size > PACK_MOST) return null;
        if (this.#space.length < file.size) this.#space = alignedBytes(file.size);
        let size = 0;
        while (size < file.size) {
          const piece = this.#space.subarray(size, size + PIECE);
          const count = await file.read(piece, size);
          if (count === 0) break;
          hash.update(piece.subarray(0, count));
          size += count;
        }
        return { sha512: hash.digest('hex'), size, bytes: this.#space.subarray(0, size) };
      } finally {
        file.close();
      }
    } catch (error) {
      mustBeAsked(error);
      return null;
    }
  }

  async #badChunksOf(block: PackBlock, files: Files): Promise<Uint8Array> {
    if (!this.#key) throw new Error('chunks cannot be opened without a key');
    const opener = new ChunkOpener(files, [block.pack], this.#key);
    const bad: Buffer[] = [];
    let opened = 0;
    for (const { id, ...place } of entriesOf(block)) {
      try {
        await opener.open(id, { pack: 0, ...place });
      } catch (error) {
        if (!isFinding(error)) throw error;
        bad.push(id);
      }
      opened += place.plain;
      if (opened >= COLLECT_EVERY_BYTES) {
        opened = 0;
        await collectGarbage();
      }
    }
    opener.close();
    return new Uint8Array(Buffer.concat(bad));
  }
}

/** A file that was read already, by whatever name. */
const oneFile = (bytes: Uint8Array): Files => ({
  open: async () => ({
    size: bytes.length,
    read(into, from) {
      const found = bytes.subarray(from, from + into.length);
      into.set(found);
      return found.length;
    },
    close: () => undefined,
  }),
});
