import {
  archiveIn,
  copyArchive,
  OpenArchive,
  verifyOpen,
  verifySealed,
  withPassword,
  type ArchiveFiles,
  type VerifyReport,
} from '@bright-cellar/archive';
import { formatBytes } from '@bright-cellar/core';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { archiveAt } from '../../racks/index.js';
import { damageOf } from '../prove/judge-proof.js';
import { gathered, type Gathered } from './gather.js';
import { recordFound } from './record.js';

/**
 * Takes an archive that was found into the catalogue: read back whole, as far as it is; with its password every item of it
 * too. What is damaged comes in as damaged, with what can be saved.
 */
async function bringIn(job: Job<'bringIn'>): Promise<Ending<'bringIn'>> {
  const { input, progress, signal } = job;
  const elapsed = stopwatch();
  const files = await archiveAt(job.db, input);
  if (input.copied) {
    await copyArchive({
      from: archiveIn(job.fromFolder.use()),
      to: files,
      onPhase: (phase, bytes) => void progress.phase(phase, { bytes, items: 0 }),
      onProgress: (bytes) => progress.add(bytes, 0),
      pace: () => job.giveWay(),
      signal,
    });
  }
  const { report, contents } = await read(job, files);
  const durationMs = elapsed();
  const damagedItems = report.contents?.damaged.length ?? 0;
  const { damagedFiles, storedBytes } = report;
  const whatIs = report.whole
    ? `${formatBytes(storedBytes)}, all of it as it was written`
    : `${formatBytes(storedBytes)}, damaged: ${damageOf(report)}`;
  const known = await recordFound(job, { report, contents, durationMs });
  return {
    what: `Brought in from ${input.rackName}: ${whatIs}.`,
    result: {
      ...{ items: report.files, bytes: storedBytes, failed: [], durationMs },
      ...{ rackName: input.rackName, storedBytes },
      ticketNumber: known.ticketNumber,
      ...{ isCopy: known.isCopy, backups: known.backups },
      ...{ damagedFiles: damagedFiles.length, damagedItems },
      lostBackups: contents?.lost ?? 0,
    },
    record: known.record,
  };
}

/** Reads all of it; without a password its bytes alone. */
async function read(
  job: Job<'bringIn'>,
  files: ArchiveFiles,
): Promise<{ report: VerifyReport; contents: Gathered | null }> {
  const { progress, signal, threads } = job;
  const options = {
    ...{ signal, threads },
    onPhase: (phase: 'checking' | 'reading', bytes: number) =>
      void progress.phase(phase, { bytes, items: 0 }),
    onProgress: (bytes: number, items: number) => progress.add(bytes, items),
    pace: () => job.giveWay(),
  };
  const password = job.password.use();
  if (password === '') {
    return { report: await verifySealed(files, { level: 'bytes', ...options }), contents: null };
  }
  await progress.phase('opening', { bytes: 0, items: 0 });
  const archive = await OpenArchive.open(files, withPassword(password), {
    lease: 'shared',
    threads,
  });
  try {
    const contents = await gathered(archive);
    return { report: await verifyOpen(archive, { level: 'full', ...options }), contents };
  } finally {
    await archive.close();
  }
}

export const bringInRun: Run<'bringIn'> = { run: bringIn };
