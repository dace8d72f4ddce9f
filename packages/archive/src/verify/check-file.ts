import { createHash } from 'node:crypto';
import { Failure } from '@bright-cellar/core';
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

export class FileChecker {
  readonly #files: Files;
  readonly #key: ArchiveKey | null;

  /** @param key needed for packs only. */
  constructor(files: Files, key: ArchiveKey | null) {
    this.#files = files;
    this.#key = key;
  }

  async check(task: CheckTask): Promise<CheckResult> {
    if (task.type === 'digest') return { ...(await this.#digest(task.name)), badChunks: null };
    return {
      ...(await this.#digest(packName(task.block.pack))),
      badChunks: await this.#badChunksOf(task.block),
    };
  }

  async #digest(name: string): Promise<{ sha512: string | null; size: number }> {
    const hash = createHash('sha512');
    let size = 0;
    try {
      for await (const piece of piecesOf(this.#files, name, PIECE)) {
        hash.update(piece);
        size += piece.length;
      }
      return { sha512: hash.digest('hex'), size };
    } catch {
      return { sha512: null, size: 0 };
    }
  }

  async #badChunksOf(block: PackBlock): Promise<Uint8Array> {
    if (!this.#key) throw new Error('chunks cannot be opened without a key');
    const opener = new ChunkOpener(this.#files, [block.pack], this.#key);
    const bad: Buffer[] = [];
    let opened = 0;
    for (const { id, ...place } of entriesOf(block)) {
      try {
        await opener.open(id, { pack: 0, ...place });
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
