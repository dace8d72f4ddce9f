import { setTimeout as sleep } from 'node:timers/promises';
import { whereIs } from '@bright-cellar/core';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { LookingJob } from './jobs.js';

const LOOK_EVERY_MS = 500;

/** Reads something on the device. A chat application gives its store out once its number was confirmed there, too: until then it waits. */
export async function whenOpen<T>(
  job: LookingJob,
  { group }: Entry,
  read: () => Promise<T>,
): Promise<T> {
  const { link, deviceId, progress, signal } = job;
  for (;;) {
    try {
      const found = await read();
      await progress.needs(null);
      return found;
    } catch (error) {
      if (!(error instanceof LinkError) || error.code !== 'sealed') throw error;
      const facts = await link.facts(deviceId);
      const store = facts.sealedStores.find((one) => one.group === group);
      await progress.needs(
        `Have the customer confirm their number in ${store?.name ?? group} on the ${facts.kind} ${whereIs(facts)}.`,
      );
      await sleep(LOOK_EVERY_MS, undefined, { signal });
    }
  }
}
