import { Decoder, Encoder } from '@toondepauw/node-zstd';
import { Failure } from '@bright-cellar/core';
import { noteHandedOut } from '../tools/collect.js';

/** zstd (RFC 8878). */
const LEVEL = 1;
/** Contents longer than this are tried on a sample of them first. */
const SAMPLE_BYTES = 16 * 2 ** 10;
/** Compression that saves less than this share is not worth undoing. */
const WORTH = 0.94;
const LEAST_BYTES = 64;
/** No zstd block gives more bytes (RFC 8878, section 3.1.1.2.4). */
const BLOCK_MAX = 128 * 2 ** 10;
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

/** The compressed bytes, or null when it does not help. */
export function compress(plain: Buffer): Buffer | null {
  if (plain.length < LEAST_BYTES) return null;
  if (plain.length > 4 * SAMPLE_BYTES) {
    const middle = (plain.length - SAMPLE_BYTES) >>> 1;
    const sample = plain.subarray(middle, middle + SAMPLE_BYTES);
    if (encode(sample).length > SAMPLE_BYTES * WORTH) return null;
  }
  const packed = encode(plain);
  const helps = packed.length < plain.length * WORTH && blocksIn(packed) <= FRAME_BLOCKS_MAX;
  return helps ? packed : null;
}

/**
 * @throws Failure `archive-damaged` unless exactly `plain` bytes come out. A frame that would give more than
 * its number of blocks allows, however it was made, is not begun: it is given no memory.
 */
export function decompress(packed: Buffer, plain: number): Buffer {
  if (blocksIn(packed) > FRAME_BLOCKS_MAX) throw new Failure('archive-damaged');
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

/** How many blocks a frame has. @throws Failure `archive-damaged` unless it is exactly one whole frame. */
function blocksIn(frame: Buffer): number {
  if (frame.length < 6 || frame.readUInt32LE(0) !== 0xfd2fb528)
    throw new Failure('archive-damaged');
  const descriptor = frame[4] ?? 0;
  const isSingleSegment = (descriptor & 0x20) !== 0;
  const dictionaryBytes = [0, 1, 2, 4][descriptor & 3] ?? 0;
  const contentSizeBytes = [isSingleSegment ? 1 : 0, 2, 4, 8][descriptor >> 6] ?? 0;
  let at = 5 + (isSingleSegment ? 0 : 1) + dictionaryBytes + contentSizeBytes;
  for (let blocks = 1; ; blocks++) {
    if (at + 3 > frame.length) throw new Failure('archive-damaged');
    const head = frame.readUIntLE(at, 3);
    const type = (head >> 1) & 3;
    const size = head >> 3;
    if (size > BLOCK_MAX || type === 3) throw new Failure('archive-damaged');
    const repeated = 1;
    at += 3 + (type === repeated ? 1 : size);
    const isLast = (head & 1) === 1;
    if (isLast) {
      // Nothing after the frame but its own checksum.
      const end = at + ((descriptor & 4) !== 0 ? 4 : 0);
      if (end !== frame.length) throw new Failure('archive-damaged');
      return blocks;
    }
  }
}
