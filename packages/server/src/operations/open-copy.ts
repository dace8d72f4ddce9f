import { OpenArchive, withPassword } from '@bright-cellar/archive';
import { copyFiles } from '../archives/index.js';
import type { Job } from '../engine/job.js';

/** The copy that work reads from, opened with its password beside whoever else reads it. Whoever opens it closes it. */
export async function openCopy(
  job: Job<'restore'> | Job<'foresee'> | Job<'cross'>,
): Promise<OpenArchive> {
  await job.progress.phase('opening', { bytes: 0, items: 0 });
  return OpenArchive.open(
    await copyFiles(job.db, job.input.copyId),
    withPassword(job.password.use()),
    { lease: 'shared', threads: job.threads },
  );
}
