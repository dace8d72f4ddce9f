import { join } from 'node:path';
import { importPackage, threadsFor, withPassword } from '@bright-cellar/archive';
import { countOf, type Committing, type OperationInput } from '@bright-cellar/core';
import { copyFiles, recordBackup, recordGrowth } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { folderOf, PACKAGES, rackHere } from '../../racks/index.js';
import { endedOnMedium, packedResult } from '../packed.js';
import { Tally } from '../tally.js';

/** Takes the backup of a package into an archive; accepted only when every checksum agrees. */
async function importBackup(job: Job<'import'>): Promise<Ending<'import'>> {
  const { input, progress, signal } = job;
  const elapsed = stopwatch();
  await progress.phase('opening', { bytes: 0, items: 0 });
  await progress.phase('importing', { bytes: input.packageBytes, items: 0 });
  const tally = new Tally();
  let committing: Committing | undefined;
  await importPackage({
    from: join(folderOf(await rackHere(job.db, input.from.rackId)), PACKAGES, input.from.name),
    packageSecret: { password: job.packagePassword.use() || job.password.use() },
    files: await copyFiles(job.db, input.copyId),
    secret: withPassword(job.password.use()),
    archive: job.archiveId,
    backup: job.backupId,
    serial: input.serial,
    onProgress: (count, done) => progress.add(count, done),
    onTaken: (item) => tally.taken(item),
    threads: threadsFor(input.packageBytes, job.threads),
    beforeDeciding: async (committed) => {
      const durationMs = elapsed();
      committing = { committed, ...tally.counts(), durationMs, workedMs: null };
      await job.saveInput({ ...input, committing });
    },
    signal,
  });
  if (!committing) throw new Error('committed without a record');
  return importEnding({ ...job, id: job.operationId }, input, committing);
}

/** How a package that was taken in ends its operation. Also used to finish the record of one that was cut off at the very end. */
function importEnding(
  row: { id: string; startedBy: string; ticketId: string | null },
  input: OperationInput<'import'>,
  committing: Committing,
): Ending<'import'> {
  const { committed, classes, durationMs } = committing;
  return {
    what: `Package taken in: ${countOf(committed.items, 'item')}, each compared.`,
    result: packedResult(committed, { failed: [], durationMs }),
    async record(unit) {
      await recordGrowth(unit.tx, committed, { id: input.copyId });
      await recordBackup(unit.tx, committed, {
        ticketId: row.ticketId,
        operationId: row.id,
        takenBy: row.startedBy,
        osVersion: input.osVersion,
        // It came from elsewhere: nobody knows whether it is what is on the device now.
        contentRevision: '',
        durationMs,
        classes,
        failed: [],
        scope: { mode: 'everything', encrypted: true, everything: false },
        coverage: [],
      });
    },
  };
}

export const importRun: Run<'import'> = {
  run: importBackup,
  recover: (row, { db }) =>
    endedOnMedium(
      row.input.committing,
      () => copyFiles(db, row.input.copyId),
      (committing) => importEnding(row, row.input, committing),
    ),
};
