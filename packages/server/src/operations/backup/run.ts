import {
  BackupRun,
  threadsFor,
  withPassword,
  type FailedItem,
  type NewItem,
} from '@bright-cellar/archive';
import {
  countOf,
  failedCount,
  Failure,
  formatBytes,
  isChosen,
  problemOf,
  type Committing,
  type OperationInput,
  type LinkDeviceId,
  type VisitSheet,
} from '@bright-cellar/core';
import { LinkError, readAhead, type Entry } from '@bright-cellar/device-link';
import { agreedOf } from '../../agreements/index.js';
import { deviceItems, recordArchive, recordBackup, recordGrowth } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { linkFailure } from '../../engine/link-failures.js';
import { archiveAt } from '../../racks/index.js';
import { ticketForWork } from '../../tickets/index.js';
import { endedOnMedium, packedResult } from '../packed.js';
import { reasonWords, Tally } from '../tally.js';
import { takeRecovered } from './recovered-run.js';
import { isOverNow, isUnderway } from './underway.js';

/** Of notes so much is sealed with a backup. */
const NOTES_SIGNS = 5000;

/** Of a device that is on the bench, not of what somebody recovered. */
type BackupJob = Job<'backup'> & { deviceId: LinkDeviceId };

/** Refusals that concern one item only. Anything else ends the whole backup. */
const itemFailures: Partial<Record<LinkError['code'], FailedItem['reason']>> = {
  'read-error': 'read-error',
  changed: 'changed',
  'no-such-entry': 'gone',
  sealed: 'refused',
};

/**
 * Takes a backup: every class, every entry that is chosen, straight from the cable into the sealed archive. What the
 * archive has already is not sent again; a backup that was cut off goes on from what is on the rack.
 */
async function takeBackup(job: Job<'backup'>): Promise<Ending<'backup'>> {
  const { input, progress, signal } = job;
  const elapsed = stopwatch();
  const tally = new Tally();
  const failedIds = new Map<string, string>();
  const files = await archiveAt(job.db, input);
  const run = await BackupRun.begin({
    files,
    secret: withPassword(job.password.use()),
    archive: input.archive,
    backup: input.backup,
    label: '',
    threads: threadsFor(input.expected.bytes, job.threads),
    ticket: input.ticket,
    device: input.device,
    sheet: await sheetOf(job),
    takenAt: new Date(input.takenAt),
    isFollowed: input.followed,
    ...(input.escrow === undefined ? {} : { escrow: input.escrow }),
    events: {
      bytes: (count) => progress.add(count, 0),
      taken: (item) => tally.taken(item),
      failed: ({ class: dataClass, path, reason }) =>
        tally.failed(dataClass, reasonWords[reason], failedIds.get(path)),
      withdrawn: (item) => tally.withdrawn(item),
    },
  });
  if (run.durable) isUnderway(input.backup, run.durable);
  try {
    const contentRevision = await takeContents(job, run, failedIds);
    await progress.phase('committing', { bytes: 0, items: 0 });
    signal.throwIfAborted();
    let committing: Committing | undefined;
    await run.commit(async (committed) => {
      const durationMs = elapsed();
      const workedMs = input.continued ? null : durationMs - job.session.stoodStillMs;
      committing = { committed, ...tally.counts(), durationMs, workedMs };
      await job.saveInput({ ...input, contentRevision, committing });
    });
    if (!committing) throw new Error('committed without a record');
    return backupEnding(
      { id: job.operationId, startedBy: job.startedBy },
      { ...input, contentRevision, committing },
      committing,
    );
  } catch (error) {
    await run.suspend();
    if (problemOf(error).code === 'rack-full') {
      throw new Failure(
        'rack-full',
        {
          what: 'The rack filled up before all of it was taken.',
          safe: 'The device is as it was. What was taken is kept on the rack.',
          next: 'Make room on the rack, then let the backup go on.',
        },
        { cause: error },
      );
    }
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was taken.',
      safe: 'The device is as it was. What was taken is kept on the rack.',
      next: 'Check the cable, connect and unlock the device, and let the backup go on.',
    });
  } finally {
    isOverNow(input.backup);
  }
}

/** What the backup says of the visit, sealed with it: the catalogue can be lost. */
async function sheetOf({ db, input }: Job<'backup'>): Promise<VisitSheet> {
  const { ticket, customer } = await ticketForWork(db, input.ticket);
  const { name, phone, email } = customer;
  return {
    customer: { name, phone, email },
    reason: ticket.reason,
    openedAt: ticket.openedAt.toISOString(),
    notes: ticket.notes.slice(0, NOTES_SIGNS),
    agreed: await agreedOf(db, ticket.id),
    passwordHolder: input.passwordHolder,
    scope: input.scope,
    coverage: input.coverage,
  };
}

/** @returns the device's content revision; of what somebody recovered none */
async function takeContents(
  job: Job<'backup'>,
  run: BackupRun,
  failedIds: Map<string, string>,
): Promise<string> {
  const { input, deviceId } = job;
  if (deviceId !== null) return takeItems({ ...job, deviceId }, run, failedIds);
  if (!input.recovered) throw new Error('a backup of nothing');
  await takeRecovered(job, run, input.recovered);
  return '';
}

/** A device whose contents change so often while it is read is not left alone. */
const LOOKS_AGAIN_MAX = 3;

type ListedItem = { entry: Entry; item: NewItem };

/** Asks the device what it holds now, through pauses, sleep and a cable that was pulled and put back. */
async function revisionNow({ input, link, deviceId, session, signal }: BackupJob) {
  for (;;) {
    try {
      return await link.revision(deviceId, signal);
    } catch (error) {
      await session.waitOut(error, input.scope.encrypted);
    }
  }
}

/** @returns whether the listing went through to its end: it breaks off when the device changes meanwhile */
async function throughListing<One>(
  listed: AsyncIterable<One>,
  each: (listed: One) => void | Promise<void>,
): Promise<boolean> {
  try {
    for await (const one of listed) await each(one);
    return true;
  } catch (error) {
    if (error instanceof LinkError && error.code === 'changed') return false;
    throw error;
  }
}

async function takeItem(
  job: BackupJob,
  run: BackupRun,
  { entry, item, contents }: ListedItem & { contents: Buffer | null },
  failedIds: Map<string, string>,
): Promise<void> {
  await job.session.goOn();
  const isKept = await run.has(item);
  try {
    await run.addContents(item, (from) =>
      contents ? [contents.subarray(from)] : attended(job, entry, from),
    );
  } catch (error) {
    const reason = error instanceof LinkError ? itemFailures[error.code] : undefined;
    if (!reason) throw error;
    failedIds.set(item.path, entry.id);
    run.addFailure({ class: item.class, path: item.path, reason });
  }
  if (!isKept) job.progress.add(0, 1);
}

/**
 * Takes everything that is chosen, as the device holds it at one moment.
 * @param failedIds gets the device's own id of each item that it did not give out, by path
 * @returns the device's content revision, the same before the first item and after the last
 * @throws Failure `device-restless` when it changes all the time
 */
async function takeItems(
  job: BackupJob,
  run: BackupRun,
  failedIds: Map<string, string>,
): Promise<string> {
  const { input, link, progress } = job;
  try {
    await job.session.begin(input.scope.encrypted);
    // Nothing is there yet of a first backup: what it comes to was seen when it was started.
    const isFirst = input.isNew && !input.continued;
    await progress.phase('taking', isFirst ? input.expected : await leftToTake(job, run));
    let revision = await revisionNow(job);
    const kept = (item: NewItem) => run.has(item);
    let isWhole = await throughListing(withContents(job, kept), (listed) =>
      takeItem(job, run, listed, failedIds),
    );
    for (let looks = 0; ; looks++) {
      const now = await revisionNow(job);
      if (isWhole && now === revision) return revision;
      if (looks === LOOKS_AGAIN_MAX) {
        throw new Failure('device-restless');
      }
      // It changed while it was read: what is as it was stays, the rest is read again.
      revision = now;
      await run.beginReview();
      await progress.phase('reviewing', { bytes: 0, items: 0 });
      const stays = new Set<NewItem>();
      const staysOrKept = async (item: NewItem) => {
        if (await run.stays(item)) stays.add(item);
        return stays.has(item) || run.has(item);
      };
      isWhole = await throughListing(withContents(job, staysOrKept), async (listed) => {
        if (stays.delete(listed.item)) return;
        failedIds.delete(listed.item.path);
        await takeItem(job, run, listed, failedIds);
      });
    }
  } finally {
    // The device shows that a backup runs until it is told otherwise; when it is gone there is nobody to tell.
    await link.endBackup(job.deviceId).catch(() => undefined);
  }
}

/** What of the chosen the archive does not have yet. */
async function leftToTake(job: BackupJob, run: BackupRun) {
  const left = { bytes: 0, items: 0 };
  await throughListing(chosenItems(job), async ({ item }) => {
    if (await run.has(item)) return;
    left.items += 1;
    left.bytes += item.bytes - run.begunBytesOf(item);
  });
  return left;
}

async function* chosenItems({ input, link, deviceId, session, signal }: BackupJob) {
  const trouble = (error: unknown) => session.waitOut(error, input.scope.encrypted);
  for await (const listed of deviceItems(link, deviceId, signal, trouble)) {
    if (isChosen(input.choice, listed.entry)) yield listed;
  }
}

/** What is chosen, small contents read ahead. @param isKept nothing is read of these */
async function* withContents(job: BackupJob, isKept: (item: NewItem) => Promise<boolean>) {
  const { link, deviceId, signal } = job;
  const wanted = async ({ item, entry }: ListedItem) => ((await isKept(item)) ? null : entry);
  const chosen = readAhead(link, deviceId, chosenItems(job), wanted, signal);
  for await (const { one, contents } of chosen) yield { ...one, contents };
}

/** An entry's bytes, through pauses, sleep and a cable that was pulled and put back. */
async function* attended(
  { input, link, deviceId, session, signal }: BackupJob,
  entry: Entry,
  from: number,
): AsyncGenerator<Uint8Array> {
  let offset = from;
  for (;;) {
    try {
      for await (const piece of link.read(deviceId, entry, signal, offset)) {
        offset += piece.length;
        yield piece;
        await session.goOn();
      }
      return;
    } catch (error) {
      await session.waitOut(error, input.scope.encrypted);
    }
  }
}

/** How a committed backup ends its operation. Also used to finish the record of one that was cut off at the very end. */
function backupEnding(
  { id, startedBy }: { id: string; startedBy: string },
  input: OperationInput<'backup'>,
  committing: Committing,
): Ending<'backup'> {
  const { committed, classes, failed, durationMs, workedMs } = committing;
  return {
    result: { ...packedResult(committed, committing), workedMs },
    // What was recovered elsewhere is in no device that could be asked again.
    retryable: input.recovered === undefined ? failedCount(failed) : 0,
    what: `Backup taken: ${countOf(committed.items, 'item')}, ${formatBytes(committed.bytes)}, ${committed.failed} failed; new ${formatBytes(committed.newBytes)}.`,
    async record(unit) {
      const { rackId, folder } = input;
      if (input.isNew) {
        const archive = {
          ticketId: input.ticketId,
          deviceId: input.knownDeviceId,
          passwordHolder: input.passwordHolder,
          encrypted: input.scope.encrypted,
          escrow: input.escrow !== undefined,
          reminder: input.reminder,
          createdAt: unit.now,
        };
        await recordArchive(unit.tx, committed, archive, { rackId, folder });
        unit.changed('archive');
      } else await recordGrowth(unit.tx, committed, { rackId });
      unit.changed('rack', rackId);
      await recordBackup(unit.tx, committed, {
        ticketId: input.ticketId,
        operationId: id,
        takenBy: startedBy,
        osVersion: input.device.osVersion,
        contentRevision: input.contentRevision,
        durationMs,
        classes,
        failed,
        scope: input.scope,
        coverage: input.coverage,
      });
    },
  };
}

export const backupRun: Run<'backup'> = {
  run: takeBackup,
  recover: (row, { db }) =>
    endedOnMedium(
      row.input.committing,
      () => archiveAt(db, row.input),
      (committing) => backupEnding(row, row.input, committing),
    ),
  abandon: async ({ deviceId }, { link }) => {
    if (deviceId !== null) await link.endBackup(deviceId);
  },
};
