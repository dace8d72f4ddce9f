import { setTimeout as sleep } from 'node:timers/promises';
import { Failure, isOver, problemOf, type CopyId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { presentCopy } from '../../archives/index.js';
import { isDatabaseAway } from '../../database/connect.js';
import { operations } from '../../database/schema.js';
import type { Job } from '../../engine/job.js';
import { durableOf } from '../backup/underway.js';
import type { Sending } from './sending.js';

const LOOK_EVERY_MS = 300;
/** A device that hears nothing for half a minute gives up. */
const KEEP_AWAKE_MS = 5_000;

/**
 * Sends what of a backup is durable while it is taken; then waits for its end. What was not sent by then, or changed since, is in
 * the archive.
 * @returns where the backup lies
 * @throws Failure `backup-unfinished` where it came to no good end
 */
export async function sendMeanwhile(job: Job<'restore'>, sending: Sending): Promise<CopyId> {
  const awake = setInterval(
    () => void job.link.facts(job.deviceId).catch(() => undefined),
    KEEP_AWAKE_MS,
  );
  try {
    const durable = await whenUnderway(job);
    if (durable) await sending.throughCuts(() => sendDurable(job, sending, durable));
    job.progress.rest();
    while ((await stateOfBackup(job)) === 'running') await wait(job);
    if ((await stateOfBackup(job)) !== 'done') throw new Failure('backup-unfinished');
    return (await presentCopy(job.db, job.archiveId)).id;
  } finally {
    clearInterval(awake);
  }
}

type Durable = NonNullable<ReturnType<typeof durableOf>>;

async function sendDurable(
  { signal }: Job<'restore'>,
  sending: Sending,
  durable: Durable,
): Promise<void> {
  for await (const item of durable.items(signal)) {
    try {
      await sending.send(item, durable.contents(item));
    } catch (error) {
      // It is being put into the archive just now, and is sent from there.
      if (problemOf(error).code !== 'archive-damaged') throw error;
    }
  }
}

/** Null where the backup was over before. */
async function whenUnderway(job: Job<'restore'>): Promise<Durable | null> {
  for (;;) {
    const durable = durableOf(job.backupId);
    if (durable) return durable;
    if ((await stateOfBackup(job)) !== 'running') return null;
    await wait(job);
  }
}

const wait = ({ signal }: Job<'restore'>) => sleep(LOOK_EVERY_MS, undefined, { signal });

async function stateOfBackup({ db, input }: Job<'restore'>): Promise<'running' | 'done' | 'other'> {
  const rows = await db
    .select({ state: operations.state })
    .from(operations)
    .where(eq(operations.id, input.follows ?? ''))
    .catch((error: unknown) => {
      // It is started again by whoever started it: the backup ends only once that is on record.
      if (isDatabaseAway(error)) return null;
      throw error;
    });
  if (rows === null) return 'running';
  const [row] = rows;
  if (!row) return 'other';
  return row.state === 'done' ? 'done' : isOver(row.state) ? 'other' : 'running';
}
