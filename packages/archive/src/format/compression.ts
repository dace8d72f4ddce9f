import { Failure, zstdBlocksIn } from '@bright-cellar/core';
import { noteHandedOut } from '../tools/collect.js';
import { Decoder, Encoder } from '../tools/native.js';

/** zstd (RFC 8878). */
const LEVEL = 1;
/** Contents longer than this are tried on a sample of them first. */
const SAMPLE_BYTES = 16 * 2 ** 10;
/** Compression that saves less than this share is not worth undoing. */
const WORTH = 0.94;
const LEAST_BYTES = 64;
/**
 * Encoders begin a new block where the contents change, long before one is full: 1 MiB of a database is 16
 * blocks. So a frame may have eight times as many as its bytes need, and gives 8 MiB at the very most.
 */
export const FRAME_BLOCKS_MAX = 64;

const encoder = new Encoder(LEVEL);
const decoder = new Decoder();

function encode(plain: Buffer): Buffer {
  const packed = encoder.encodeSync(plain);
  noteHandedOut(packed.length);
  return packed;
}

/** It is exactly one whole frame, and gives no more than it may. */
const hasFewBlocks = (frame: Buffer): boolean =>
  (zstdBlocksIn(frame) ?? Infinity) <= FRAME_BLOCKS_MAX;

/** The compressed bytes, or null when it does not help. */
export function compress(plain: Buffer): Buffer | null {
  if (plain.length < LEAST_BYTES) return null;
  if (plain.length > 4 * SAMPLE_BYTES) {
    const middle = (plain.length - SAMPLE_BYTES) >>> 1;
    const sample = plain.subarray(middle, middle + SAMPLE_BYTES);
    if (encode(sample).length > SAMPLE_BYTES * WORTH) return null;
  }
  const packed = encode(plain);
  const helps = packed.length < plain.length * WORTH && hasFewBlocks(packed);
  return helps ? packed : null;
}

/**
 * @throws Failure `archive-damaged` unless exactly `plain` bytes come out. A frame that would give more than
 * its number of blocks allows, however it was made, is not begun: it is given no memory.
 */
export function decompress(packed: Buffer, plain: number): Buffer {
  if (!hasFewBlocks(packed)) throw new Failure('archive-damaged');
  let bytes: Buffer;
  try {
    bytes = decoder.decodeSync(packed);
    noteHandedOut(bytes.length);
  } catch (error) {
    throw new Failure('archive-damaged', {}, { cause: error });
  }
  if (bytes.length !== plain) throw new Failure('archive-damaged');
  return bytes;
}
