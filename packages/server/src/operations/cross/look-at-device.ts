import type { DataClass } from '@bright-cellar/core';
import type { CrossingTarget } from '@bright-cellar/core/crossing';
import { kindOf, parseRecords, type Records } from '@bright-cellar/core/formats';
import { readAhead, type Entry } from '@bright-cellar/device-link';
import { inOne } from '../../kernel/in-one.js';
import type { LookingJob } from './jobs.js';

/** Contents of records are held whole: what is longer is none that a device wrote. */
export const RECORDS_AT_MOST = 64 * 1024 ** 2;

/** Reads what a device has of some classes, as far as something that comes could meet it there. @returns all of it */
export async function lookAtDevice(
  job: LookingJob,
  classes: readonly DataClass[],
  target: CrossingTarget,
): Promise<Entry[]> {
  const { link, deviceId, progress, signal } = job;
  const found: Entry[] = [];
  for (const dataClass of classes) {
    for await (const entry of link.entries(deviceId, dataClass, signal)) found.push(entry);
  }
  const records = found.filter(isOfRecords);
  const bytes = records.reduce((sum, entry) => sum + entry.bytes, 0);
  await progress.phase('looking', { bytes, items: records.length });
  for (const entry of found) if (!isOfRecords(entry)) target.holds(entry, null);
  // Who is in conversations first.
  const isPeople = ({ format }: Entry) => kindOf(format) === 'threads';
  const inOrder = [...records.filter(isPeople), ...records.filter((entry) => !isPeople(entry))];
  const read = readAhead(link, deviceId, inOrder, (entry) => entry, signal);
  for await (const { one: entry, contents: small } of read) {
    const contents = small ?? (await inOne(link.read(deviceId, entry, signal)));
    target.holds(entry, recordsOf(entry.format, contents, entry.path));
    progress.add(entry.bytes, 1);
  }
  return found;
}

const isOfRecords = ({ class: dataClass, kind, format, bytes }: Entry): boolean =>
  dataClass !== 'applications' &&
  kind === 'file' &&
  kindOf(format) !== null &&
  bytes <= RECORDS_AT_MOST;

/** Null for what is not what its format says. */
export function recordsOf(
  format: string | null,
  contents: Uint8Array,
  path: string,
): Records | null {
  try {
    return parseRecords(format ?? '', contents, path);
  } catch {
    return null;
  }
}
