import { OpenArchive, withPassword } from '@bright-cellar/archive';
import type { CopyId } from '@bright-cellar/core';
import { copyFiles } from '../archives/index.js';
import type { Job } from '../engine/job.js';

/** The copy that work reads from, opened with its password beside whoever else reads it. Whoever opens it closes it. */
export async function openCopy(
  job: Job<'restore'> | Job<'foresee'> | Job<'cross'>,
  copyId: CopyId,
): Promise<OpenArchive> {
  return OpenArchive.open(await copyFiles(job.db, copyId), withPassword(job.password.use()), {
    lease: 'shared',
    threads: job.threads,
  });
}
