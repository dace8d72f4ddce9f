import { basename } from 'node:path';
import {
  exportPackage,
  importPackage,
  OpenArchive,
  withPassword,
  type CommittedBackup,
} from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import { Tally } from './backup.js';
import { recordBackup, recordGrowth, resultOf } from './catalogue.js';
import type { ExportInput, ImportInput } from './inputs.js';
import type { Ending, Job } from './job.js';

/** Writes a backup as one file that opens without this program, under the archive's password. */
export async function exportBackup(job: Job<ExportInput>): Promise<Ending> {
  const { input, progress, signal, password } = job;
  const began = Date.now();
  await progress.phase('opening', { bytes: 0, items: 0 });
  const archive = await OpenArchive.open(input.archiveFolder, withPassword(password));
  try {
    await progress.phase('exporting', input.expected);
    const { items, bytes, packageBytes } = await exportPackage({
      archive,
      backup: job.backupId ?? '',
      to: input.to,
      recipient: { password },
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
  const committed = await importPackage({
    from: input.from,
    packageSecret: { password: job.packagePassword || job.password },
    folder: input.archiveFolder,
    secret: withPassword(job.password),
    archive: job.archiveId ?? '',
    backup: job.backupId ?? '',
    serial: input.serial,
    onProgress: (count, done) => progress.add(count, done),
    onTaken: (item) => tally.taken(item),
    signal,
  });
  return importEnding(job, committed, tally, Date.now() - began);
}

function importEnding(
  job: Job<ImportInput>,
  committed: CommittedBackup,
  tally: Tally,
  durationMs: number,
): Ending {
  const { classes } = tally.counts();
  return {
    what: `Package taken in: ${countOf(committed.items, 'item')}, each compared.`,
    result: resultOf(committed, { failed: [], durationMs, workedMs: null }),
    async record(tx) {
      await recordGrowth(tx, committed);
      await recordBackup(tx, committed, {
        ticketId: job.ticketId,
        operationId: job.operationId,
        takenBy: job.startedBy,
        osVersion: job.input.osVersion,
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
