import { formatBytes, formatCount } from '@bright-cellar/core';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { isOpen, stepsOf, type StepRow } from '../../moves/index.js';
import { makeMove } from './make-move.js';

/** Carries a plan out, move by move. Where it was cut off, it goes on with the move that it was at. */
async function carryOut(job: Job<'move'>): Promise<Ending<'move'>> {
  const elapsed = stopwatch();
  const open = (await stepsOf(job.db, job.operationId)).filter(isOpen);
  await job.progress.phase('moving', {
    bytes: open.reduce((sum, { bytes }) => sum + bytes, 0),
    items: open.length,
  });
  for (const step of open) {
    await job.session.goOn();
    job.signal.throwIfAborted();
    await makeMove(job, step);
    job.progress.add(0, 1);
  }
  return endingOf(await stepsOf(job.db, job.operationId), elapsed());
}

function endingOf(all: readonly StepRow[], durationMs: number): Ending<'move'> {
  const done = all.filter(({ state }) => state === 'done');
  const bytes = done.reduce((sum, step) => sum + step.bytes, 0);
  const left = all.length - done.length;
  return {
    what: `Moved: ${formatCount(done.length)} of ${formatCount(all.length)} moves, ${formatBytes(bytes)}, each read back where it lies now.`,
    result: {
      ...{ items: done.length, bytes, failed: [], durationMs },
      ...{ moved: done.length, left },
    },
  };
}

export const moveRun: Run<'move'> = {
  run: carryOut,
  // Every move is on record by itself: with none left, only the end is missing.
  async recover({ id }, { db }) {
    const all = await stepsOf(db, id);
    return all.some(isOpen) ? null : endingOf(all, 0);
  },
};
