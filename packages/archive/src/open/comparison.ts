import { CHUNK_ID_BYTES } from '../format/chunk-index.js';
import type { ItemRecord } from '../format/backup-lines.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import { PIECE_BYTES, pieceAt } from './chunk-opener.js';

type Compared = Pick<ItemRecord, 'bytes' | 'chunks'>;

/** Compares contents that come in any lengths with an item, chunk by chunk. Holds one chunk. */
export class Comparison {
  readonly #identifier: ChunkIdentifier;
  readonly #item: Compared;
  readonly #pieces: Buffer;
  #number = 0;
  #held = Buffer.alloc(0);
  #filled = 0;
  #differs = false;

  /** @param pieces the item's chunks and their places, as chunk-opener.ts lays them out. */
  constructor(key: ArchiveKey, item: Compared, pieces: Buffer) {
    this.#identifier = new ChunkIdentifier(key);
    this.#item = item;
    this.#pieces = pieces;
    this.#begin();
  }

  add(bytes: Uint8Array): void {
    for (let at = 0; at < bytes.length && !this.#differs;) {
      const count = Math.min(bytes.length - at, this.#held.length - this.#filled);
      // More comes than the item has.
      if (count === 0) this.#differs = true;
      this.#held.set(bytes.subarray(at, at + count), this.#filled);
      this.#filled += count;
      at += count;
      if (this.#filled === this.#held.length) this.#compare();
    }
  }

  isSame(): boolean {
    return !this.#differs && this.#number * PIECE_BYTES === this.#pieces.length;
  }

  #begin(): void {
    const isMore = this.#number * PIECE_BYTES < this.#pieces.length;
    this.#held = Buffer.alloc(isMore ? pieceAt(this.#pieces, this.#number).place.plain : 0);
    this.#filled = 0;
  }

  #compare(): void {
    if (this.#held.length === 0) return;
    const at = this.#number * CHUNK_ID_BYTES;
    const expected = this.#item.chunks.subarray(at, at + CHUNK_ID_BYTES);
    if (!this.#identifier.idOf(this.#held).equals(expected)) this.#differs = true;
    this.#number += 1;
    this.#begin();
  }
}
