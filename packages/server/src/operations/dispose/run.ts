import { destroyCopy } from '@bright-cellar/archive';
import { countOf, Failure } from '@bright-cellar/core';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { owedOf, recordEnd, type OwedEnd } from '../../keep/index.js';
import { unitOfWork } from '../../kernel/unit-of-work.js';
import { archiveAt } from '../../racks/index.js';

/** Destroys every copy that is here, each its keys first, and looks that it is gone. What is away stays owed. */
async function destroyAll(job: Job<'dispose'>): Promise<Ending<'dispose'>> {
  const elapsed = stopwatch();
  const { db, input, progress } = job;
  const owed = await owedOf(db, input.disposalId);
  await progress.phase('destroying', { bytes: 0, items: owed.length });
  let gone = 0;
  let bytes = 0;
  for (const copy of owed) {
    if (await destroyOne(job, copy)) {
      gone += 1;
      bytes += copy.storedBytes;
    }
    progress.add(0, 1);
  }
  const left = owed.length - gone;
  return {
    what: `Destroyed and seen to be gone: ${countOf(gone, 'copy', 'copies')}${left > 0 ? `; ${left} owed, on racks that are away` : ''}.`,
    result: {
      ...{ items: gone, bytes, failed: [], durationMs: elapsed() },
      ...{ gone, owed: left },
    },
  };
}

/** @returns whether it is gone; not where its rack is away */
async function destroyOne(job: Job<'dispose'>, copy: OwedEnd): Promise<boolean> {
  try {
    const files = await archiveAt(job.db, copy);
    const wasThere = await destroyCopy(files, job.archiveId);
    await unitOfWork(job.acting, (unit) => recordEnd(unit, job.input.disposalId, copy, wasThere));
    return true;
  } catch (error) {
    const isAway =
      error instanceof Failure && ['rack-not-here', 'not-found'].includes(error.problem.code);
    if (isAway) return false;
    throw error;
  }
}

export const disposeRun: Run<'dispose'> = { run: destroyAll };
