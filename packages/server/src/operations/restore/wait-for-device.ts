import { setTimeout as sleep } from 'node:timers/promises';
import { openingRemedy } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';
import type { FillingJob, WaitingJob } from '../cross/jobs.js';

/** How long a device may stay away while it installs. */
const AWAY_AT_MOST_MS = 30 * 60_000;
const LOOK_EVERY_MS = 400;

/** The device installs, leaves the bench and returns. Says what to do when it then waits for its owner. */
export async function waitForDevice(job: FillingJob): Promise<void> {
  await job.progress.phase('installing', { bytes: 0, items: 0 });
  await untilOpen(job, AWAY_AT_MOST_MS);
}

/**
 * Waits until the device is here, does nothing and can be read; says meanwhile what to do on it.
 * @throws LinkError `no-such-device` where that takes too long
 */
export async function untilOpen(
  job: Pick<WaitingJob, 'link' | 'progress' | 'signal' | 'deviceId'>,
  atMostMs: number,
): Promise<void> {
  const { link, progress, signal } = job;
  const device = job.deviceId;
  const until = performance.now() + atMostMs;
  for (;;) {
    signal.throwIfAborted();
    if (performance.now() > until) throw new LinkError('no-such-device');
    const facts = await link.facts(device).catch((error: unknown) => {
      if (error instanceof LinkError && ['no-such-device', 'no-answer'].includes(error.code))
        return null;
      throw error;
    });
    if (!facts) await progress.needs(null);
    else if (facts.activity === 'idle') {
      const remedy = openingRemedy(facts);
      await progress.needs(remedy);
      if (remedy === null) return;
    }
    await sleep(LOOK_EVERY_MS, undefined, { signal });
  }
}

/** What ends once somebody puts it right, on the device or at its cable. */
const passing: ReadonlySet<LinkError['code']> = new Set<LinkError['code']>([
  ...(['locked', 'not-approved', 'port-off', 'no-such-device', 'no-answer', 'left'] as const),
]);
export const passes = (error: unknown): boolean =>
  error instanceof LinkError && passing.has(error.code);

/** A device that was cut off takes a while to give up what was begun. */
const GIVES_UP_AFTER_MS = 45_000;
const TRY_EVERY_MS = 1_000;

/** Begins something on a device; while it still holds on to what was cut off, it is asked again. */
export async function onceGivenUp<T>(begin: () => Promise<T>, signal: AbortSignal): Promise<T> {
  const until = performance.now() + GIVES_UP_AFTER_MS;
  for (;;) {
    try {
      return await begin();
    } catch (error) {
      const isBusy = error instanceof LinkError && error.code === 'busy';
      if (!isBusy || performance.now() > until) throw error;
      await sleep(TRY_EVERY_MS, undefined, { signal });
    }
  }
}
