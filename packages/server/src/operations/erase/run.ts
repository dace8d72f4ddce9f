import { checkCopy } from '@bright-cellar/archive';
import { Failure, isProblem, permitErase, problemOf, type CheckedCopy } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { linkFailure } from '../../engine/link-failures.js';

/**
 * Has a device erase itself. Whether it may was decided, and recorded, before this work existed; that the copy on which
 * that rests is there, in the state that was proven, is read from its medium now.
 */
async function eraseDevice(job: Job<'erase'>): Promise<Ending<'erase'>> {
  const elapsed = stopwatch();
  await job.progress.phase('checking', { bytes: 0, items: 0 });
  const copy = await lookOnceMore(job);
  try {
    const contentRevision = await job.link.revision(job.deviceId, job.signal);
    const permit = permitErase(job.input, { copy, contentRevision });
    if (isProblem(permit)) throw new Failure(permit.code, permit);
    await job.progress.phase('erasing', { bytes: 0, items: 0 });
    job.signal.throwIfAborted();
    await job.link.erase(job.deviceId, permit);
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before it had erased itself.',
      safe: 'Its proven backup on the rack is unchanged.',
      next: 'Connect the device and look at its own screen.',
    });
  }
  return {
    what: 'The device erased itself.',
    result: {
      items: 0,
      bytes: 0,
      failed: [],
      durationMs: elapsed(),
    },
  };
}

/** That the copy on which the erase rests is there, in the state that was proven. @throws Failure `not-proven` */
async function lookOnceMore({ db, input }: Job<'erase'>): Promise<CheckedCopy> {
  try {
    return await checkCopy(await copyFiles(db, input.copyId), input.expected);
  } catch (error) {
    const { what } = problemOf(error);
    throw new Failure(
      'not-proven',
      { what: `The backup that this rests on was looked at once more: ${what}` },
      { cause: error },
    );
  }
}

export const eraseRun: Run<'erase'> = { run: eraseDevice };
