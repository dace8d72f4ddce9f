import { dirname } from 'node:path';
import {
  BackupRun,
  mustBeRack,
  withPassword,
  type FailedItem,
  type NewItem,
} from '@bright-cellar/archive';
import {
  countOf,
  Failure,
  formatBytes,
  isChosen,
  problemOf,
  type ClassAmount,
  type DataClass,
} from '@bright-cellar/core';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { OperationResult } from '@bright-cellar/contract';
import type { Transaction } from '../database/connect.js';
import { recordArchive, recordBackup, recordGrowth, resultOf } from './catalogue.js';
import { deviceItems } from './device-items.js';
import type { BackupInput, Committing } from './inputs.js';
import type { Ending, Job } from './job.js';
import { linkFailure } from './link-failures.js';
import { takeRecovered } from './recovered.js';

/** Refusals that concern one item only. Anything else ends the whole backup. */
const itemFailures: Partial<Record<LinkError['code'], FailedItem['reason']>> = {
  'read-error': 'read-error',
  changed: 'changed',
  'no-such-entry': 'gone',
  sealed: 'refused',
};

const reasonWords: Record<FailedItem['reason'], string> = {
  'read-error': 'the device could not read it',
  changed: 'it changed while it was read',
  gone: 'it was gone when its turn came',
  refused: 'the device did not give it out',
  'not-a-file': 'it is neither file, folder nor link',
  'unfit-name': 'its name or place is one that nothing could be written to',
};

/**
 * Takes a backup: every class, every entry that is chosen, straight from the cable into the sealed archive. What the
 * archive has already is not sent again; a backup that was cut off goes on from what is on the rack.
 */
export async function takeBackup(job: Job<BackupInput>): Promise<Ending> {
  const { input, progress, signal } = job;
  const began = Date.now();
  const tally = new Tally();
  const failedIds = new Map<string, string>();
  mustBeRack(dirname(input.folder), input.rackId);
  const run = await BackupRun.begin({
    folder: input.folder,
    secret: withPassword(job.password.use()),
    archive: input.archive,
    backup: input.backup,
    label: '',
    threads: job.threads,
    ticket: input.ticket,
    device: input.device,
    takenAt: new Date(input.takenAt),
    ...(input.escrow === undefined ? {} : { escrow: input.escrow }),
    events: {
      bytes: (count) => progress.add(count, 0),
      taken: (item) => tally.taken(item),
      failed: ({ class: dataClass, path, reason }) =>
        tally.failed(dataClass, reasonWords[reason], failedIds.get(path)),
      withdrawn: (item) => tally.withdrawn(item),
    },
  });
  try {
    const contentRevision =
      input.recovered === undefined
        ? await takeItems(job, run, failedIds)
        : await takeRecovered(job, run, input.recovered).then(() => '');
    await progress.phase('committing', { bytes: 0, items: 0 });
    signal.throwIfAborted();
    let committing: Committing | undefined;
    await run.commit(async (committed) => {
      const durationMs = Date.now() - began;
      const workedMs = input.continued ? null : durationMs - job.attendance.stoodStillMs;
      committing = { committed, ...tally.counts(), durationMs, workedMs };
      await job.saveInput({ ...input, contentRevision, committing });
    });
    if (!committing) throw new Error('committed without a record');
    return backupEnding(job, { ...input, contentRevision, committing }, committing);
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
  }
}

/** A device whose contents change so often while it is read is not left alone. */
const LOOKS_AGAIN_MAX = 3;

type ListedItem = { entry: Entry; item: NewItem };

/** Asks the device what it holds now, through pauses, sleep and a cable that was pulled and put back. */
async function revisionNow({ input, link, deviceId, attendance, signal }: Job<BackupInput>) {
  for (;;) {
    try {
      return await link.revision(deviceId ?? '', signal);
    } catch (error) {
      await attendance.recover(error, input.scope.encrypted);
    }
  }
}

/** @returns whether the listing went through to its end: it breaks off when the device changes meanwhile */
async function throughListing(
  listed: AsyncIterable<ListedItem>,
  each: (listed: ListedItem) => void | Promise<void>,
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
  job: Job<BackupInput>,
  run: BackupRun,
  { entry, item }: ListedItem,
  failedIds: Map<string, string>,
): Promise<void> {
  await job.attendance.goOn();
  const isKept = run.has(item);
  try {
    await run.addContents(item, (from) => attended(job, entry, from));
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
  job: Job<BackupInput>,
  run: BackupRun,
  failedIds: Map<string, string>,
): Promise<string> {
  const { input, link, progress } = job;
  const device = job.deviceId ?? '';
  try {
    await job.attendance.begin(input.scope.encrypted);
    const toSend = { bytes: 0, items: 0 };
    await throughListing(chosenItems(job), ({ item }) => {
      if (run.has(item)) return;
      toSend.items += 1;
      toSend.bytes += item.bytes - run.begunBytesOf(item);
    });
    await progress.phase('taking', toSend);
    let revision = await revisionNow(job);
    let isWhole = await throughListing(chosenItems(job), (listed) =>
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
      isWhole = await throughListing(chosenItems(job), async (listed) => {
        if (run.stays(listed.item)) return;
        failedIds.delete(listed.item.path);
        await takeItem(job, run, listed, failedIds);
      });
    }
  } finally {
    // The device shows that a backup runs until it is told otherwise; when it is gone there is nobody to tell.
    await link.endBackup(device).catch(() => undefined);
  }
}

async function* chosenItems({ input, link, deviceId, attendance, signal }: Job<BackupInput>) {
  const trouble = (error: unknown) => attendance.recover(error, input.scope.encrypted);
  for await (const listed of deviceItems(link, deviceId ?? '', signal, trouble)) {
    if (isChosen(input.choice, listed.entry)) yield listed;
  }
}

/** An entry's bytes, through pauses, sleep and a cable that was pulled and put back. */
async function* attended(
  { input, link, deviceId, attendance, signal }: Job<BackupInput>,
  entry: Entry,
  from: number,
): AsyncGenerator<Uint8Array> {
  let offset = from;
  for (;;) {
    try {
      for await (const piece of link.read(deviceId ?? '', entry, signal, offset)) {
        offset += piece.length;
        yield piece;
        await attendance.goOn();
      }
      return;
    } catch (error) {
      await attendance.recover(error, input.scope.encrypted);
    }
  }
}

/** How a committed backup ends its operation. Also used to finish the record of one that was cut off at the very end. */
export function backupEnding(
  job: { operationId: string; startedBy: string },
  input: BackupInput,
  { committed, classes, failed, durationMs, workedMs }: Committing,
): Ending {
  return {
    result: resultOf(committed, { failed, durationMs, workedMs }),
    what: `Backup taken: ${countOf(committed.items, 'item')}, ${formatBytes(committed.bytes)}, ${committed.failed} failed; new ${formatBytes(committed.newBytes)}.`,
    async record(tx: Transaction) {
      if (input.isNew) {
        const archive = {
          ticketId: input.ticketId,
          deviceId: input.knownDeviceId,
          passwordHolder: input.passwordHolder,
          encrypted: input.scope.encrypted,
          escrow: input.escrow !== undefined,
          reminder: input.reminder,
          createdAt: new Date(),
        };
        const place = { rackId: input.rackId, folder: input.folderName };
        await recordArchive(tx, committed, archive, place);
      } else await recordGrowth(tx, committed, { rackId: input.rackId });
      await recordBackup(tx, committed, {
        ticketId: input.ticketId,
        operationId: job.operationId,
        takenBy: job.startedBy,
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

/** Of one reason so many failed items are kept by id: enough to look at, and no second catalogue. */
const IDS_KEPT = 200;

/** Counts what was taken and what failed, by class. */
export class Tally {
  readonly #classes = new Map<DataClass, { items: number; bytes: number }>();
  readonly #failed = new Map<string, OperationResult['failed'][number]>();

  taken({ class: dataClass, bytes }: NewItem): void {
    const amount = this.#classes.get(dataClass) ?? { items: 0, bytes: 0 };
    this.#classes.set(dataClass, { items: amount.items + 1, bytes: amount.bytes + bytes });
  }

  /** @param id the device's own, where it has one */
  failed(dataClass: DataClass, reason: string, id?: string): void {
    const key = `${dataClass} ${reason}`;
    const { count = 0, ids = [] } = this.#failed.get(key) ?? {};
    if (id !== undefined && ids.length < IDS_KEPT) ids.push(id);
    this.#failed.set(key, { class: dataClass, reason, count: count + 1, ids });
  }

  /** What was counted before does not count any more. */
  withdrawn(item: { failed: boolean; class: DataClass; bytes: number; reason: string }): void {
    if (!item.failed) {
      const amount = this.#classes.get(item.class);
      if (!amount) return;
      amount.items -= 1;
      amount.bytes -= item.bytes;
      return;
    }
    const key = `${item.class} ${reasonWords[item.reason as FailedItem['reason']]}`;
    const found = this.#failed.get(key);
    if (!found) return;
    if (found.count === 1) this.#failed.delete(key);
    else this.#failed.set(key, { ...found, count: found.count - 1 });
  }

  counts(): { classes: ClassAmount[]; failed: OperationResult['failed'] } {
    return {
      classes: [...this.#classes].map(([dataClass, amount]) => ({ class: dataClass, ...amount })),
      failed: [...this.#failed.values()],
    };
  }
}
