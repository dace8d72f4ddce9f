import type { ItemRecord, OpenArchive } from '@bright-cellar/archive';
import {
  countOf,
  dataClassIds,
  Failure,
  formatCount,
  type BackupId,
  type CopyId,
  type OperationResult,
} from '@bright-cellar/core';
import { readAhead, type Entry } from '@bright-cellar/device-link';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { openCopy } from '../open-copy.js';
import { linkFailure } from '../../engine/link-failures.js';
import { counted } from '../counted.js';
import { proveCopy } from '../prove/prove-copy.js';
import { sendMeanwhile } from './follow.js';
import { LeftOut, Sending } from './sending.js';
import { waitForDevice } from './wait-for-device.js';

/**
 * Restores everything: first pass over the cable, second pass on the device itself, then every item on the device is read back
 * and compared with the backup. From an old device onto a new one, the first pass begins while the backup is still taken, and that
 * is proven while the new one installs.
 */
async function restoreBackup(job: Job<'restore'>): Promise<Ending<'restore'>> {
  const { input } = job;
  const elapsed = stopwatch();
  try {
    const source = await open(job);
    const { archive, sending } = source;
    try {
      const leftOut = await sending.throughCuts(() => sending.sendRest(archive));
      await sending.commit(leftOut);
      const proof = source.isUnproven ? proveCopy(job, { ...source, level: 'full' }) : null;
      // Waited for below: a failure is not unhandled until then.
      proof?.catch(() => undefined);
      await waitForDevice(job);
      const compared = await compare(job, archive, leftOut);
      const proven = await proof;
      mustBeSame(compared, leftOut);
      const { same, extra } = compared;
      return {
        what: `Restored ${countOf(same, 'item')}; each compared with the backup${extra > 0 ? `; ${formatCount(extra)} more on the device` : ''}${proven ? `; the backup is proven: ${proven.own.what}` : ''}.`,
        result: {
          items: same,
          bytes: input.expected.bytes,
          failed: [],
          durationMs: elapsed(),
          compared,
        },
        ...(proven ? { record: proven.record } : {}),
      };
    } finally {
      await archive.close();
    }
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before the restore was over.',
      safe: 'The backup on the rack is unchanged. The device may hold an incomplete restore.',
      next: 'Connect the device. If it is not at its welcome screen, erase it; then restore again.',
    });
  }
}

/** Where it is read from, and how it is sent. */
interface Source {
  archive: OpenArchive;
  sending: Sending;
  copyId: CopyId;
  backupId: BackupId;
  isUnproven: boolean;
}

async function open(job: Job<'restore'>): Promise<Source> {
  const { input, backupId } = job;
  if (input.copyId !== null) {
    const archive = await openCopy(job, input.copyId);
    const sending = await Sending.begin(job).catch(async (error: unknown) => {
      await archive.close();
      throw error;
    });
    return { archive, sending, backupId, copyId: input.copyId, isUnproven: false };
  }
  const sending = await Sending.begin(job);
  const copyId = await sendMeanwhile(job, sending);
  const archive = await openCopy(job, copyId);
  return { archive, sending, backupId, copyId, isUnproven: true };
}

function mustBeSame(
  { same, different, missing }: OperationResult<'restore'>['compared'],
  leftOut: LeftOut,
): void {
  if (different + missing > 0) {
    throw new Failure('restore-differs', {
      what: `${formatCount(same)} items are right on the device, ${formatCount(different)} differ and ${formatCount(missing)} are missing.`,
    });
  }
  if (leftOut.count > 0) {
    throw new Failure('restore-incomplete', {
      what: `${countOf(same, 'item')} on the device, each compared with the backup. Damaged in the archive and left out: ${leftOut.words()}.`,
    });
  }
}

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
  const all = archive.items(job.backupId);
  const there = (item: ItemRecord) =>
    leftOut.has(item) ? null : (onDevice.get(item.path) ?? null);
  const items = readAhead(link, device, all, there, signal);
  for await (const { one: item, contents } of items) {
    signal.throwIfAborted();
    if (leftOut.has(item)) continue;
    const entry = onDevice.get(item.path);
    onDevice.delete(item.path);
    if (!entry) counts.missing += 1;
    else {
      const pieces = contents ? [contents] : link.read(device, entry, signal);
      const read = counted(pieces, (bytes) => progress.add(bytes, 0));
      const same = (await archive.matches(item, read)) && entry.kind === item.kind;
      counts[same ? 'same' : 'different'] += 1;
    }
    progress.add(0, 1);
  }
  return { ...counts, extra: onDevice.size };
}

export const restoreRun: Run<'restore'> = { run: restoreBackup };
