import { basename } from 'node:path';
import { exportPackage, importPackage, OpenArchive, withPassword } from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import { Tally } from './backup.js';
import { recordBackup, recordGrowth, resultOf } from './catalogue.js';
import { copyFolder } from './copy-changes.js';
import type { Committing, ExportInput, ImportInput } from './inputs.js';
import type { Ending, Job } from './job.js';

/** Writes a backup as one file that opens without this program, under the archive's password. */
export async function exportBackup(job: Job<ExportInput>): Promise<Ending> {
  const { input, progress, signal, password } = job;
  const began = Date.now();
  await progress.phase('opening', { bytes: 0, items: 0 });
  const folder = await copyFolder(job.db, input.copyId);
  const archive = await OpenArchive.open(folder, withPassword(password.use()));
  try {
    await progress.phase('exporting', input.expected);
    const { items, bytes, packageBytes } = await exportPackage({
      archive,
      backup: job.backupId ?? '',
      to: input.to,
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
        storedBytes: packageBytes,
        newItems: null,
        newBytes: null,
        durationMs: Date.now() - began,
        workedMs: null,
        digest: null,
        compared: null,
        wrote: basename(input.to),
      },
      record: async () => undefined,
    };
  } finally {
    await archive.close();
  }
}

/** Takes the backup of a package into an archive; accepted only when every checksum agrees. */
export async function importBackup(job: Job<ImportInput>): Promise<Ending> {
  const { input, progress, signal } = job;
  const began = Date.now();
  await progress.phase('opening', { bytes: 0, items: 0 });
  await progress.phase('importing', { bytes: input.packageBytes, items: 0 });
  const tally = new Tally();
  let committing: Committing | undefined;
  await importPackage({
    from: input.from,
    packageSecret: { password: job.packagePassword.use() || job.password.use() },
    folder: await copyFolder(job.db, input.copyId),
    secret: withPassword(job.password.use()),
    archive: job.archiveId ?? '',
    backup: job.backupId ?? '',
    serial: input.serial,
    onProgress: (count, done) => progress.add(count, done),
    onTaken: (item) => tally.taken(item),
    beforeDeciding: async (committed) => {
      const durationMs = Date.now() - began;
      committing = { committed, ...tally.counts(), durationMs, workedMs: null };
      await job.saveInput({ ...input, committing });
    },
    signal,
  });
  if (!committing) throw new Error('committed without a record');
  return importEnding(job, input, committing);
}

/** How a package that was taken in ends its operation. Also used to finish the record of one that was cut off at the very end. */
export function importEnding(
  job: { operationId: string; startedBy: string; ticketId: string | null },
  input: ImportInput,
  { committed, classes, durationMs }: Committing,
): Ending {
  return {
    what: `Package taken in: ${countOf(committed.items, 'item')}, each compared.`,
    result: resultOf(committed, { failed: [], durationMs, workedMs: null }),
    async record(tx) {
      await recordGrowth(tx, committed, { id: input.copyId });
      await recordBackup(tx, committed, {
        ticketId: job.ticketId,
        operationId: job.operationId,
        takenBy: job.startedBy,
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
