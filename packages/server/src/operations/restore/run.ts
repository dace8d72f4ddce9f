import type { ItemRecord, OpenArchive } from '@bright-cellar/archive';
import {
  countOf,
  dataClasses,
  dataClassIds,
  Failure,
  formatCount,
  problemOf,
  type DataClass,
  type OperationResult,
} from '@bright-cellar/core';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { openCopy } from '../open-copy.js';
import { linkFailure } from '../../engine/link-failures.js';
import { counted } from '../counted.js';
import { waitForDevice } from './wait-for-device.js';

/**
 * Restores everything: first pass over the cable, second pass on the device itself, then every item
 * on the device is read back and compared with the backup.
 */
async function restoreBackup(job: Job<'restore'>): Promise<Ending<'restore'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const archive = await openCopy(job);
  try {
    const damaged = await send(job, archive);
    await waitForDevice(job);
    const compared = await compare(job, archive, damaged);
    const { same, different, missing, extra } = compared;
    if (different + missing > 0) {
      throw new Failure('restore-differs', {
        what: `${formatCount(same)} items are right on the device, ${formatCount(different)} differ and ${formatCount(missing)} are missing.`,
      });
    }
    if (damaged.count > 0) {
      throw new Failure('restore-incomplete', {
        what: `${countOf(same, 'item')} on the device, each compared with the backup. Damaged in the archive and left out: ${damaged.words()}.`,
      });
    }
    return {
      what: `Restored ${countOf(same, 'item')}; each compared with the backup${extra > 0 ? `; ${formatCount(extra)} more on the device` : ''}.`,
      result: {
        items: same,
        bytes: input.expected.bytes,
        failed: [],
        durationMs: elapsed(),
        compared,
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before the restore was over.',
      safe: 'The backup on the rack is unchanged. The device may hold an incomplete restore.',
      next: 'Connect the device. If it is not at its welcome screen, erase it; then restore again.',
    });
  } finally {
    await archive.close();
  }
}

/** Items that are damaged in the archive: left out, and told by their class. Their names are the customer's. */
class LeftOut {
  readonly #paths = new Set<string>();
  readonly #classes = new Map<DataClass, number>();

  add({ path, class: dataClass }: ItemRecord): void {
    this.#paths.add(path);
    this.#classes.set(dataClass, (this.#classes.get(dataClass) ?? 0) + 1);
  }

  has({ path }: ItemRecord): boolean {
    return this.#paths.has(path);
  }

  get count(): number {
    return this.#paths.size;
  }

  words(): string {
    return [...this.#classes]
      .map(
        ([dataClass, count]) => `${dataClasses[dataClass].toLowerCase()} (${formatCount(count)})`,
      )
      .join(', ');
  }
}

/** Sends every item that can be read. @returns those that cannot */
async function send(job: Job<'restore'>, archive: OpenArchive): Promise<LeftOut> {
  const leftOut = new LeftOut();
  const { input, link, progress, signal } = job;
  const device = job.deviceId;
  const restore = await link.beginRestore(device, {
    serial: input.serial,
    family: input.family,
    osVersion: input.osVersion,
    ...input.expected,
  });
  await progress.phase('sending', input.expected);
  let items = 0;
  let bytes = 0;
  for await (const item of archive.items(job.backupId)) {
    signal.throwIfAborted();
    const pieces = counted(archive.contents(item), (n) => progress.add(n, 0));
    try {
      const received = await link.write(device, restore, entryOf(item), pieces, signal);
      if (received !== item.bytes) throw new LinkError('no-answer');
      items += 1;
      bytes += received;
    } catch (error) {
      if (problemOf(error).code !== 'archive-damaged') throw error;
      leftOut.add(item);
    }
    progress.add(0, 1);
  }
  if (items === 0 && leftOut.count > 0) throw new Failure('archive-damaged');
  await link.commitRestore(device, restore, { items, bytes });
  return leftOut;
}

const entryOf = ({ class: dataClass, kind, path, bytes, modified, mode }: ItemRecord) => ({
  class: dataClass,
  kind,
  path,
  bytes,
  modified,
  mode,
});

/** Reads every item back from the device and compares it with the backup by digest. */
async function compare(
  job: Job<'restore'>,
  archive: OpenArchive,
  leftOut: LeftOut,
): Promise<OperationResult<'restore'>['compared']> {
  const { input, link, progress, signal } = job;
  const device = job.deviceId;
  await progress.phase('comparing', input.expected);
  const onDevice = new Map<string, Entry>();
  for (const dataClass of dataClassIds) {
    for await (const entry of link.entries(device, dataClass, signal))
      onDevice.set(entry.path, entry);
  }
  const counts = { same: 0, different: 0, missing: 0, extra: 0 };
  for await (const item of archive.items(job.backupId)) {
    signal.throwIfAborted();
    if (leftOut.has(item)) continue;
    const entry = onDevice.get(item.path);
    onDevice.delete(item.path);
    if (!entry) counts.missing += 1;
    else {
      const contents = counted(link.read(device, entry, signal), (n) => progress.add(n, 0));
      const same = (await archive.matches(item, contents)) && entry.kind === item.kind;
      counts[same ? 'same' : 'different'] += 1;
    }
    progress.add(0, 1);
  }
  return { ...counts, extra: onDevice.size };
}

export const restoreRun: Run<'restore'> = { run: restoreBackup };
