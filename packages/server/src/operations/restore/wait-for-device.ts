import { setTimeout as sleep } from 'node:timers/promises';
import { openingRemedy } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';
import type { FillingJob } from '../cross/jobs.js';

/** How long a device may stay away while it installs. */
const AWAY_AT_MOST_MS = 30 * 60_000;
const LOOK_EVERY_MS = 400;

/**
 * The device installs, leaves the bench and returns. Says what to do when it then waits for its owner.
 * @throws LinkError `no-such-device` where that takes too long
 */
export async function waitForDevice(job: FillingJob): Promise<void> {
  const { link, progress, signal } = job;
  const device = job.deviceId;
  await progress.phase('installing', { bytes: 0, items: 0 });
  let until = performance.now() + AWAY_AT_MOST_MS;
  for (;;) {
    signal.throwIfAborted();
    if (performance.now() > until) throw new LinkError('no-such-device');
    const facts = await link.facts(device).catch((error: unknown) => {
      if (error instanceof LinkError && ['no-such-device', 'no-answer'].includes(error.code))
        return null;
      throw error;
    });
    // It is here: whoever has to do something with it may take as long as they want.
    if (facts) until = performance.now() + AWAY_AT_MOST_MS;
    if (!facts) await progress.needs(null);
    else if (facts.activity === 'idle') {
      const remedy = openingRemedy(facts);
      await progress.needs(remedy);
      if (remedy === null) return;
    }
    await sleep(LOOK_EVERY_MS, undefined, { signal });
  }
}

/** A device that was cut off takes a while to give up what was begun. */
const GIVES_UP_AFTER_MS = 45_000;
const TRY_EVERY_MS = 1_000;

/** A device that leaves more often has a cable that nobody should trust, or never takes what it is sent. */
export const CUTS_AT_MOST = 8;

/**
 * Does something on a device that may be cut off: it is waited for, and all of it is done again.
 * @throws what cut it off, where waiting would not end it, or it was cut off too often
 */
export async function throughCuts<T>(
  session: Pick<FillingJob['session'], 'untilBack'>,
  work: () => Promise<T>,
): Promise<T> {
  for (let cuts = 1; ; cuts += 1) {
    try {
      return await work();
    } catch (error) {
      if (cuts > CUTS_AT_MOST) throw error;
      await session.untilBack(error);
    }
  }
}

/** Begins something on a device. While it holds on to what was cut off, or waits for somebody's hands, it is asked again. */
export function onceTaken<T>(
  { session, signal }: Pick<FillingJob, 'session' | 'signal'>,
  begin: () => Promise<T>,
): Promise<T> {
  const until = performance.now() + GIVES_UP_AFTER_MS;
  return throughCuts(session, async () => {
    for (;;) {
      try {
        return await begin();
      } catch (error) {
        const isBusy = error instanceof LinkError && error.code === 'busy';
        if (!isBusy || performance.now() > until) throw error;
        await sleep(TRY_EVERY_MS, undefined, { signal });
      }
    }
  });
}
