import { Failure } from '@bright-cellar/core';
import { FRAME_MAX_PLAIN, FRAME_OVERHEAD, HEADER_BYTES, ID_BYTES } from './sealed.js';

/**
 * An index says which chunks lie where in which pack, and what each pack's bytes are. A frame of an
 * index file holds whole blocks, one a pack.
 */
export const CHUNK_ID_BYTES = 32;
const SHA512_BYTES = 64;
const BLOCK_HEAD_BYTES = ID_BYTES + 8 + SHA512_BYTES + 4;
export const ENTRY_BYTES = CHUNK_ID_BYTES + 12;
/** So that a block always fits a frame. */
const CHUNKS_IN_PACK_MAX = Math.floor((FRAME_MAX_PLAIN - BLOCK_HEAD_BYTES) / ENTRY_BYTES);

/** One pack, as its index has it. */
export interface PackBlock {
  /** 32 hexadecimal digits. */
  pack: string;
  /** Bytes of the pack's file. */
  size: number;
  /** SHA-512 of the pack's file, hexadecimal. */
  sha512: string;
  /** The chunks in it: {@link ENTRY_BYTES} each, see {@link entryAt}. */
  entries: Buffer;
}

/** Where a chunk lies in its pack. */
export interface ChunkEntry {
  id: Buffer;
  offset: number;
  /** Bytes of its frame's ciphertext. */
  stored: number;
  /** Bytes of the chunk itself. */
  plain: number;
}

function writeEntry(target: Buffer, at: number, { id, offset, stored, plain }: ChunkEntry): void {
  id.copy(target, at, 0, CHUNK_ID_BYTES);
  target.writeUInt32BE(offset, at + CHUNK_ID_BYTES);
  target.writeUInt32BE(stored, at + CHUNK_ID_BYTES + 4);
  target.writeUInt32BE(plain, at + CHUNK_ID_BYTES + 8);
}

/** The chunks of a pack as they come, {@link ENTRY_BYTES} each. */
export class EntryList {
  #bytes = Buffer.allocUnsafe(64 * ENTRY_BYTES);
  #count = 0;

  get count(): number {
    return this.#count;
  }

  get isFull(): boolean {
    return this.#count === CHUNKS_IN_PACK_MAX;
  }

  /** @throws RangeError when it is full. */
  add(entry: ChunkEntry): void {
    if (this.isFull) throw new RangeError('no pack has more chunks');
    const at = this.#count * ENTRY_BYTES;
    if (at === this.#bytes.length) {
      const larger = Buffer.allocUnsafe(2 * at);
      this.#bytes.copy(larger);
      this.#bytes = larger;
    }
    writeEntry(this.#bytes, at, entry);
    this.#count += 1;
  }

  /** A copy of all of them. */
  bytes(): Buffer {
    return Buffer.from(this.#bytes.subarray(0, this.#count * ENTRY_BYTES));
  }

  clear(): void {
    this.#count = 0;
  }
}

export function entryAt(entries: Buffer, number: number): ChunkEntry {
  const at = number * ENTRY_BYTES;
  return {
    id: entries.subarray(at, at + CHUNK_ID_BYTES),
    offset: entries.readUInt32BE(at + CHUNK_ID_BYTES),
    stored: entries.readUInt32BE(at + CHUNK_ID_BYTES + 4),
    plain: entries.readUInt32BE(at + CHUNK_ID_BYTES + 8),
  };
}

export const entryCount = (block: PackBlock) => block.entries.length / ENTRY_BYTES;

export function* entriesOf(block: PackBlock): Generator<ChunkEntry> {
  for (let number = 0; number < entryCount(block); number++) yield entryAt(block.entries, number);
}

export function encodeBlock({ pack, size, sha512, entries }: PackBlock): Buffer {
  const head = Buffer.alloc(BLOCK_HEAD_BYTES);
  head.write(pack, 0, 'hex');
  head.writeBigUInt64BE(BigInt(size), ID_BYTES);
  head.write(sha512, ID_BYTES + 8, 'hex');
  head.writeUInt32BE(entries.length / ENTRY_BYTES, BLOCK_HEAD_BYTES - 4);
  return Buffer.concat([head, entries]);
}

/** @throws Failure `archive-damaged`. */
export function* decodeBlocks(frame: Buffer): Generator<PackBlock> {
  for (let at = 0; at < frame.length;) {
    if (frame.length - at < BLOCK_HEAD_BYTES) throw new Failure('archive-damaged');
    const size = Number(frame.readBigUInt64BE(at + ID_BYTES));
    const count = frame.readUInt32BE(at + BLOCK_HEAD_BYTES - 4);
    const from = at + BLOCK_HEAD_BYTES;
    const end = from + count * ENTRY_BYTES;
    if (end > frame.length) throw new Failure('archive-damaged');
    const block: PackBlock = {
      pack: frame.toString('hex', at, at + ID_BYTES),
      size,
      sha512: frame.toString('hex', at + ID_BYTES + 8, from - 4),
      // Outlives the frame.
      entries: Buffer.from(frame.subarray(from, end)),
    };
    for (const { offset, stored, plain } of entriesOf(block)) {
      const sound =
        offset >= HEADER_BYTES &&
        plain <= FRAME_MAX_PLAIN &&
        stored <= plain &&
        offset + stored + FRAME_OVERHEAD <= size;
      if (!sound) throw new Failure('archive-damaged');
    }
    yield block;
    at = end;
  }
}
