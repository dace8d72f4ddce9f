import { randomBytes } from 'node:crypto';
import {
  cutSegment,
  cutSizesFor,
  cuttingFor,
  GEAR_BYTES,
  gearTable,
  SEGMENT_BYTES,
  type DataClass,
} from '@bright-cellar/core';
import { compress } from '../format/compression.js';
import { FRAME_OVERHEAD } from '../format/sealed.js';

/** Any table cuts about as well as the archive's own, which nobody has before it is opened. */
const anyGear = gearTable(randomBytes(GEAR_BYTES));

/**
 * Bytes that the beginning of an item would take in a pack: cut and compressed as a backup would, and
 * nothing is kept.
 * @param item the whole item, of which `contents` may be only the beginning
 */
export function packedSize(
  contents: Buffer,
  item: { class: DataClass; path: string; bytes: number },
): number {
  let stored = 0;
  for (let at = 0; at < contents.length; at += SEGMENT_BYTES) {
    const segment = contents.subarray(at, at + SEGMENT_BYTES);
    let from = 0;
    for (const end of cutSegment(segment, cuttingFor(item), anyGear, cutSizesFor(item.bytes))) {
      const chunk = segment.subarray(from, end);
      stored += (compress(chunk)?.length ?? chunk.length) + FRAME_OVERHEAD;
      from = end;
    }
  }
  return stored;
}
