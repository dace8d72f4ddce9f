import { join } from 'node:path';
import { exportPackage, OpenArchive, withPassword } from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { folderOf, PACKAGES, rackHere } from '../../racks/index.js';

/** Writes a backup as one file that opens without this program, under the archive's password. */
async function exportBackup(job: Job<'export'>): Promise<Ending<'export'>> {
  const { input, progress, signal, password, threads } = job;
  const elapsed = stopwatch();
  await progress.phase('opening', { bytes: 0, items: 0 });
  const files = await copyFiles(job.db, input.copyId);
  const archive = await OpenArchive.open(files, withPassword(password.use()), {
    lease: 'shared',
    threads,
  });
  try {
    await progress.phase('exporting', input.expected);
    const { items, bytes, packageBytes } = await exportPackage({
      archive,
      backup: job.backupId,
      to: join(folderOf(await rackHere(job.db, input.to.rackId)), PACKAGES, input.to.name),
      recipient: { password: password.use() },
      onProgress: (count, done) => progress.add(count, done),
      signal,
    });
    return {
      what: `Package written: ${countOf(items, 'item')}, ${formatBytes(packageBytes)}.`,
      result: {
        items,
        bytes,
        failed: [],
        durationMs: elapsed(),
        packageBytes,
        wrote: input.to.name,
      },
    };
  } finally {
    await archive.close();
  }
}

export const exportRun: Run<'export'> = { run: exportBackup };
