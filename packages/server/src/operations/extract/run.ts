import { join } from 'node:path';
import { diskFailure, mkdirInside } from '@bright-cellar/archive';
import { countOf, failedCount } from '@bright-cellar/core';
import type { Ending, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { linkFailure } from '../../engine/link-failures.js';
import { takeApplications } from './applications.js';
import { takeRecords } from './records.js';
import type { ExtractJob } from './taking.js';
import { EXTRACTS, folderOf, rackHere } from '../../racks/index.js';

/** Takes one narrow set out of a device into an open file, or single applications into packages. */
async function extractFromDevice(job: Omit<ExtractJob, 'folder'>): Promise<Ending<'extract'>> {
  const elapsed = stopwatch();
  const { what, rackId, ticket } = job.input;
  try {
    const rack = await rackHere(job.db, rackId);
    const folder = join(folderOf(rack), EXTRACTS, ticket);
    await mkdirInside(folderOf(rack), folder).catch((error: unknown) => {
      throw diskFailure(error);
    });
    const done = await (what.kind === 'records'
      ? takeRecords({ ...job, folder }, what)
      : takeApplications({ ...job, folder }, what));
    return {
      what: `Taken out: ${countOf(done.items, what.kind === 'records' ? 'record' : 'application')}, ${failedCount(done.failed)} failed.`,
      result: {
        items: done.items,
        bytes: done.bytes,
        failed: done.failed,
        wrote: done.wrote,
        newItems: done.added,
        durationMs: elapsed(),
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was taken out.',
      safe: 'Files that were there before are as they were.',
      next: 'Connect the device and start again.',
    });
  }
}

export const extractRun: Run<'extract'> = { run: extractFromDevice };
