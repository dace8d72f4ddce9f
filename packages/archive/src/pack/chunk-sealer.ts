import { join } from 'node:path';
import { CHUNK_MAX, cutSegment, cutSizesFor, gearTable, type Cutting } from '@bright-cellar/core';
import { CHUNK_ID_BYTES, EntryList, type PackBlock } from '../format/chunk-index.js';
import { newSealedId } from '../format/sealed.js';
import { SealedWriter } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import type { ChunkSet } from '../tools/chunk-set.js';
import { bufferOver } from '../tools/buffer-over.js';
import { readRange, type ReadFailure } from './source-file.js';

/** A pack is closed when it has reached this many bytes. */
export const PACK_BYTES = 32 * 2 ** 20;

/** A stretch of one item, at most SEGMENT_BYTES long, that begins at a multiple of it. */
export interface Part {
  /** Either its bytes, or the file to read them from. */
  source: Uint8Array | { path: Uint8Array; mark: string };
  offset: number;
  length: number;
  cutting: Cutting;
  /** Of the whole item. */
  itemBytes: number;
}

/** Chunk ids in order, or why there are none. */
export type PartResult = { chunks: Uint8Array } | { failure: ReadFailure };

/** Cut → identify → leave out what is there → compress → encrypt → pack: one thread's share of a backup. */
export class ChunkSealer {
  readonly #folder: string;
  readonly #key: ArchiveKey;
  readonly #known: ChunkSet;
  readonly #onPack: (block: PackBlock) => void;
  readonly #identifier: ChunkIdentifier;
  readonly #gear: Int32Array;
  readonly #entries = new EntryList();
  #pack: SealedWriter | null = null;
  #buffer = Buffer.alloc(0);

  /**
   * @param folder takes the packs; each is handed to `onPack` when it is finished and not yet synced.
   */
  constructor(
    folder: string,
    key: ArchiveKey,
    known: ChunkSet,
    onPack: (block: PackBlock) => void,
  ) {
    this.#folder = folder;
    this.#key = key;
    this.#known = known;
    this.#onPack = onPack;
    this.#identifier = new ChunkIdentifier(key);
    this.#gear = gearTable(key.cuttingMaterial());
  }

  /** @throws NodeJS.ErrnoException when the pack cannot be written. */
  seal(part: Part): PartResult {
    const sizes = cutSizesFor(part.itemBytes);
    if (part.source instanceof Uint8Array) {
      return { chunks: this.#sealSegment(bufferOver(part.source), part.cutting, sizes) };
    }
    const path = bufferOver(part.source.path);
    const { mark } = part.source;
    if (part.cutting === 'content') {
      const segment = this.#space(part.length);
      const read = readRange(path, mark, part.offset, segment);
      if (typeof read !== 'number') return { failure: read };
      return { chunks: this.#sealSegment(segment, 'content', sizes) };
    }
    // Piece by piece: a mebibyte stays in fast memory from the read to the write.
    const ids = Buffer.allocUnsafeSlow(Math.ceil(part.length / CHUNK_MAX) * CHUNK_ID_BYTES);
    for (let at = 0, number = 0; at < part.length; at += CHUNK_MAX, number++) {
      const piece = this.#space(Math.min(CHUNK_MAX, part.length - at));
      const read = readRange(path, mark, part.offset + at, piece);
      if (typeof read !== 'number') return { failure: read };
      this.#sealChunk(piece).copy(ids, number * CHUNK_ID_BYTES);
    }
    return { chunks: ids };
  }

  /** Seals one chunk as it is. @returns its id. */
  add(chunk: Buffer): Buffer {
    return this.#sealChunk(chunk);
  }

  closePack(): void {
    const pack = this.#pack;
    if (!pack) return;
    this.#pack = null;
    const facts = pack.finish();
    this.#onPack({ pack: pack.id.toString('hex'), ...facts, entries: this.#entries.bytes() });
  }

  /** Leaves the open pack as it is. */
  giveUp(): void {
    const pack = this.#pack;
    this.#pack = null;
    try {
      pack?.flush();
    } catch {
      // The medium is full or gone: what is on it is what will be found there.
    } finally {
      pack?.close();
    }
  }

  #sealSegment(
    segment: Buffer,
    cutting: Cutting,
    sizes: Parameters<typeof cutSegment>[3],
  ): Uint8Array {
    const ends = cutSegment(segment, cutting, this.#gear, sizes);
    const ids = Buffer.allocUnsafeSlow(ends.length * CHUNK_ID_BYTES);
    let from = 0;
    ends.forEach((end, number) => {
      this.#sealChunk(segment.subarray(from, end)).copy(ids, number * CHUNK_ID_BYTES);
      from = end;
    });
    return ids;
  }

  #sealChunk(chunk: Buffer): Buffer {
    const id = this.#identifier.idOf(chunk);
    if (this.#known.add(id)) {
      const pack = this.#pack ?? this.#openPack();
      const { offset, stored } = pack.append(chunk);
      this.#entries.add({ id, offset, stored, plain: chunk.length });
      if (pack.size >= PACK_BYTES || this.#entries.isFull) this.closePack();
    }
    return id;
  }

  #openPack(): SealedWriter {
    const id = newSealedId();
    this.#pack = new SealedWriter(
      join(this.#folder, `${id.toString('hex')}.pack`),
      'pack',
      this.#key,
      id,
    );
    this.#entries.clear();
    return this.#pack;
  }

  #space(length: number): Buffer {
    if (this.#buffer.length < length) this.#buffer = Buffer.allocUnsafeSlow(length);
    return this.#buffer.subarray(0, length);
  }
}
