import { Failure } from '@bright-cellar/core';
import { CHUNK_ID_BYTES } from '../format/chunk-index.js';
import { packName } from '../format/layout.js';
import { FrameSpace, SealedReader } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import type { Files } from '../store/store.js';
import type { ChunkPlace } from './chunk-places.js';

const OPEN_PACKS = 8;

/** Reads chunks out of their packs, one at a time; each is compared with its id. */
export class ChunkOpener {
  readonly #files: Files;
  readonly #packs: readonly string[];
  readonly #key: ArchiveKey;
  readonly #identifier: ChunkIdentifier;
  readonly #open = new Map<number, SealedReader>();
  readonly #space = new FrameSpace();

  /** @param packs ids of the packs by their numbers. */
  constructor(files: Files, packs: readonly string[], key: ArchiveKey) {
    this.#files = files;
    this.#packs = packs;
    this.#key = key;
    this.#identifier = new ChunkIdentifier(key);
  }

  /** The chunk; it is overwritten by the next. @throws Failure `archive-damaged`. */
  async open(id: Uint8Array, { pack, offset, stored, plain }: ChunkPlace): Promise<Buffer> {
    const reader = this.#open.get(pack) ?? (await this.#reader(pack));
    const chunk = await reader.readAt(offset, stored, plain);
    if (!this.#identifier.idOf(chunk).equals(id)) throw new Failure('archive-damaged');
    return chunk;
  }

  close(): void {
    for (const reader of this.#open.values()) reader.close();
    this.#open.clear();
  }

  async #reader(number: number): Promise<SealedReader> {
    const id = this.#packs[number] ?? '';
    const name = packName(id);
    const reader = await SealedReader.open(this.#files, name, 'pack', this.#key, this.#space);
    if (reader.id.toString('hex') !== id) {
      reader.close();
      throw new Failure('archive-damaged');
    }
    for (const [oldest, unused] of this.#open) {
      if (this.#open.size < OPEN_PACKS) break;
      unused.close();
      this.#open.delete(oldest);
    }
    this.#open.set(number, reader);
    return reader;
  }
}

/**
 * Chunks and their places, as threads are given them: for each its id, then pack, offset, stored and plain
 * as 32-bit numbers.
 */
export const PIECE_BYTES = CHUNK_ID_BYTES + 16;

export function writePiece(target: Buffer, number: number, id: Buffer, place: ChunkPlace): void {
  const at = number * PIECE_BYTES;
  id.copy(target, at, 0, CHUNK_ID_BYTES);
  target.writeUInt32LE(place.pack, at + 32);
  target.writeUInt32LE(place.offset, at + 36);
  target.writeUInt32LE(place.stored, at + 40);
  target.writeUInt32LE(place.plain, at + 44);
}

export function pieceAt(pieces: Buffer, number: number): { id: Buffer; place: ChunkPlace } {
  const at = number * PIECE_BYTES;
  return {
    id: pieces.subarray(at, at + CHUNK_ID_BYTES),
    place: {
      pack: pieces.readUInt32LE(at + 32),
      offset: pieces.readUInt32LE(at + 36),
      stored: pieces.readUInt32LE(at + 40),
      plain: pieces.readUInt32LE(at + 44),
    },
  };
}
