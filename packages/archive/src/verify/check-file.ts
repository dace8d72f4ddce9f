import { createHash } from 'node:crypto';
import { closeSync, constants, fstatSync, openSync, readSync } from 'node:fs';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { entriesOf, type PackBlock } from '../format/chunk-index.js';
import { packName } from '../format/layout.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkOpener } from '../open/chunk-opener.js';
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

export class FileChecker {
  readonly #folder: string;
  readonly #key: ArchiveKey | null;
  readonly #buffer = Buffer.allocUnsafeSlow(PIECE);

  /** @param key needed for packs only. */
  constructor(folder: string, key: ArchiveKey | null) {
    this.#folder = folder;
    this.#key = key;
  }

  async check(task: CheckTask): Promise<CheckResult> {
    if (task.type === 'digest') return { ...this.#digest(task.name), badChunks: null };
    return {
      ...this.#digest(packName(task.block.pack)),
      badChunks: await this.#badChunksOf(task.block),
    };
  }

  #digest(name: string): { sha512: string | null; size: number } {
    let fd: number;
    try {
      // A link is no file: what it leads to could be changed without the bag.
      fd = openSync(join(this.#folder, name), constants.O_RDONLY | constants.O_NOFOLLOW);
    } catch {
      return { sha512: null, size: 0 };
    }
    try {
      if (!fstatSync(fd).isFile()) return { sha512: null, size: 0 };
      const hash = createHash('sha512');
      let size = 0;
      for (;;) {
        const count = readSync(fd, this.#buffer, 0, PIECE, size);
        if (count === 0) return { sha512: hash.digest('hex'), size };
        hash.update(this.#buffer.subarray(0, count));
        size += count;
      }
    } catch {
      return { sha512: null, size: 0 };
    } finally {
      closeSync(fd);
    }
  }

  async #badChunksOf(block: PackBlock): Promise<Uint8Array> {
    if (!this.#key) throw new Error('chunks cannot be opened without a key');
    const opener = new ChunkOpener(this.#folder, [block.pack], this.#key);
    const bad: Buffer[] = [];
    let opened = 0;
    for (const { id, ...place } of entriesOf(block)) {
      try {
        opener.open(id, { pack: 0, ...place });
      } catch (error) {
        if (!(error instanceof Failure)) throw error;
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
