import { createHash } from 'node:crypto';
import { packedSize } from '@bright-cellar/archive';
import { SAMPLE_READ_BYTES, type LinkDeviceId } from '@bright-cellar/core';
import { LinkError, type DeviceLink, type Entry } from '@bright-cellar/device-link';
import type { Measured } from './orders.js';

/** Estimating must not keep somebody waiting: what was not read by then is left out of the sample. */
const AT_MOST_MS = 6_000;

/** Reads the beginnings of a few entries, one after the other, and packs each for its size only. */
export async function measure(
  link: DeviceLink,
  device: LinkDeviceId,
  entries: readonly Entry[],
): Promise<Measured> {
  const measured: Measured = [];
  const until = performance.now() + AT_MOST_MS;
  for (const entry of entries) {
    if (performance.now() > until) break;
    const began = performance.now();
    const contents = await beginningOf(link, device, entry);
    if (!contents) continue;
    const ms = performance.now() - began;
    measured.push({
      id: entry.id,
      bytes: contents.length,
      storedBytes: packedSize(contents, entry),
      ms,
      digest: createHash('sha256').update(contents).digest('hex'),
    });
  }
  return measured;
}

/** Null for an entry that cannot be read; it is no worse than not being drawn. */
async function beginningOf(
  link: DeviceLink,
  device: LinkDeviceId,
  entry: Entry,
): Promise<Buffer | null> {
  const pieces: Uint8Array[] = [];
  let read = 0;
  try {
    for await (const piece of link.read(device, entry)) {
      pieces.push(piece);
      read += piece.length;
      if (read >= SAMPLE_READ_BYTES) break;
    }
  } catch (error) {
    if (error instanceof LinkError) return null;
    throw error;
  }
  return Buffer.concat(pieces).subarray(0, SAMPLE_READ_BYTES);
}
