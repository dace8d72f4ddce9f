import {
  OpenArchive,
  recordProof,
  verifyOpen,
  verifySealed,
  withPassword,
  type ArchiveFiles,
  type VerifyReport,
} from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeProof } from './judge-proof.js';
import { recordLook, whatIsKnown } from './record-look.js';

/**
 * Looks at a whole archive as closely as was asked, and records what was found: with the archive, and in
 * the catalogue for each of its backups. Damage is recorded too: it is the news that matters most.
 */
async function proveBackup(job: Job<'prove'>): Promise<Ending<'prove'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const files = await copyFiles(job.db, input.copyId);
  const known = await whatIsKnown(job.db, input.copyId);
  const report = await look(job, files);
  // A rack that can be read only still gives a proof; it is in the catalogue then.
  await recordProof(files, report, new Date()).catch(() => undefined);
  const judged = judgeProof(report, known.copy, known.backups);
  const own = judged.find(({ backupId }) => backupId === job.backupId);
  const record = (unit: Unit) =>
    recordLook(unit, job, { report, before: known.copy, judged, durationMs: elapsed() });
  if (own?.outcome !== 'whole') {
    await unitOfWork(job.acting, record);
    throw new Failure('archive-damaged', { what: own?.what ?? damageOf(report) });
  }
  return {
    what: `${report.level === 'full' ? 'Backup proven' : 'Archive looked at'}: ${own.what}`,
    result: {
      items: own.items,
      bytes: own.bytes,
      failed: [],
      storedBytes: report.storedBytes,
      durationMs: elapsed(),
      digest: report.manifestDigest,
    },
    record,
  };
}

async function look(job: Job<'prove'>, files: ArchiveFiles): Promise<VerifyReport> {
  const { input, progress, signal, threads } = job;
  const { level } = input;
  const options = {
    ...{ level, signal, threads },
    onPhase: (phase: 'checking' | 'reading', bytes: number) =>
      void progress.phase(phase, {
        bytes,
        items: phase === 'reading' ? input.expected.items : 0,
      }),
    onProgress: (bytes: number, items: number) => progress.add(bytes, items),
  };
  await progress.phase('opening', { bytes: 0, items: 0 });
  if (job.password.use() === '') return verifySealed(files, options);
  const archive = await OpenArchive.open(files, withPassword(job.password.use()), {
    lease: 'shared',
    threads,
  });
  try {
    return await verifyOpen(archive, options);
  } finally {
    await archive.close();
  }
}

export const proveRun: Run<'prove'> = { run: proveBackup };
