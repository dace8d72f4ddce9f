import type { OpenArchive } from '@bright-cellar/archive';
import {
  countOf,
  failedCount,
  formatCount,
  goesOver,
  otherwiseThan,
  staysBehind,
} from '@bright-cellar/core';
import type { Ending, Job, Run } from '../../engine/job.js';
import { linkFailure } from '../../engine/link-failures.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { openCopy } from '../open-copy.js';
import { throughCuts, waitForDevice } from '../restore/wait-for-device.js';
import { Crossing } from './crossing.js';
import { selectionToSend } from './picks.js';
import { failedOf, readBack, sendAll } from './send.js';

/**
 * Beside what is on it, a device keeps each file that arrived, and only the one that was cut off goes again. Of what was cut off
 * on its way onto an empty one it keeps nothing: it is waited for, and all of it goes again.
 */
function sendThroughCuts(
  job: Job<'cross'>,
  archive: OpenArchive,
  { selection, inStores }: ReturnType<typeof selectionToSend>,
): Promise<{ crossing: Crossing; sent: Awaited<ReturnType<typeof sendAll>> }> {
  const send = async () => {
    const crossing = await Crossing.open(job, archive, selection);
    crossing.staysInStores(inStores);
    return { crossing, sent: await sendAll(job, crossing) };
  };
  return job.input.adds ? send() : throughCuts(job.session, send);
}

/** Sends what was foreseen, then reads every piece of it back from the device. */
async function sendAcross(job: Job<'cross'>): Promise<Ending<'cross'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const archive = await openCopy(job, job.input.copyId);
  try {
    const selected = selectionToSend(input, input.foresaw);
    const { crossing, sent } = await sendThroughCuts(job, archive, selected);
    if (!input.adds) await waitForDevice(job);
    await readBack(job, crossing, sent);
    const report = crossing.tally.report();
    const went = report.reduce((sum, one) => sum + goesOver(one), 0);
    const stayed = report.reduce((sum, one) => sum + staysBehind(one), 0);
    const failed = failedOf(report);
    return {
      what:
        `${countOf(went, 'item')} arrived, each read back; ${formatCount(stayed)} stayed` +
        `${failedCount(failed) > 0 ? `, of which ${formatCount(failedCount(failed))} were sent and did not arrive` : ''}.`,
      result: {
        items: went,
        bytes: report.reduce((sum, { bytes }) => sum + bytes, 0),
        failed,
        durationMs: elapsed(),
        ...{ report, otherwise: otherwiseThan(input.foreseen, report) },
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was over.',
      ...(input.adds
        ? {
            safe: 'The backup on the rack is unchanged. What arrived on the device is there, each item whole.',
            next: 'Connect the device, ask for the loss report again, and start once more: what is there is not sent twice.',
          }
        : {
            safe: 'The backup on the rack is unchanged. The device took nothing.',
            next: 'Connect the device. If it is not at its welcome screen, erase it; then start again.',
          }),
    });
  } finally {
    await archive.close();
  }
}

export const crossRun: Run<'cross'> = {
  run: sendAcross,
  abandon: async ({ deviceId, input }, { link }) => {
    if (input.adds) await link.endAddition(deviceId).catch(() => undefined);
  },
};
