import { randomUUID } from 'node:crypto';
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
import { eq } from 'drizzle-orm';
import { backups, copies, proofs } from '../../database/schema.js';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeProof, type Judgement } from './judge-proof.js';

/**
 * Looks at a whole archive as closely as was asked, and records what was found: with the archive, and in
 * the catalogue for each of its backups. Damage is recorded too: it is the news that matters most.
 */
async function proveBackup(job: Job<'prove'>): Promise<Ending<'prove'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const files = await copyFiles(job.db, input.copyId);
  const report = await look(job, files);
  // A rack that can be read only still gives a proof; it is in the catalogue then.
  await recordProof(files, report, new Date()).catch(() => undefined);
  const judged = await judge(job, report);
  const own = judged.find(({ backupId }) => backupId === job.backupId);
  if (own?.outcome !== 'whole') {
    await unitOfWork(job.acting, (unit) => recordJudgements(unit, job, report, judged));
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
    record: (unit) => recordJudgements(unit, job, report, judged),
  };
}

async function judge(job: Job<'prove'>, report: VerifyReport): Promise<Judgement[]> {
  const [copy] = await job.db.select().from(copies).where(eq(copies.id, job.input.copyId));
  if (!copy) throw new Failure('not-found');
  const known = await job.db.select().from(backups).where(eq(backups.archiveId, copy.archiveId));
  return judgeProof(report, copy, known);
}

async function recordJudgements(
  unit: Unit,
  job: Job<'prove'>,
  report: VerifyReport,
  judged: readonly Judgement[],
): Promise<void> {
  const { tx } = unit;
  const { copyId } = job.input;
  const [copy] = await tx.select().from(copies).where(eq(copies.id, copyId));
  const generation = report.contents?.generation ?? copy?.generation ?? 0;
  // Whoever has the key may have changed it without this catalogue, or a change was cut off before it was recorded.
  if (copy && report.contents?.archive === copy.archiveId && generation >= copy.generation) {
    await tx
      .update(copies)
      .set({
        ...{ generation, digest: report.manifestDigest, storedBytes: report.storedBytes },
        state: report.whole ? 'whole' : 'damaged',
        ...{ checkedAt: unit.now, checkedLevel: report.level },
      })
      .where(eq(copies.id, copyId));
  }
  if (copy) unit.changed('archive', copy.archiveId);
  if (judged.length === 0) return;
  await tx.insert(proofs).values(
    judged.map(({ backupId, outcome, items, bytes, what }) => ({
      ...{ id: randomUUID(), backupId, copyId, generation, operationId: job.operationId },
      ...{ at: unit.now, by: job.startedBy, level: report.level, outcome, items, bytes },
      storedBytes: report.storedBytes,
      what,
    })),
  );
}

async function look(job: Job<'prove'>, files: ArchiveFiles): Promise<VerifyReport> {
  const { input, progress, signal } = job;
  const { level } = input;
  const options = {
    level,
    signal,
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
  });
  try {
    return await verifyOpen(archive, options);
  } finally {
    await archive.close();
  }
}

export const proveRun: Run<'prove'> = { run: proveBackup };
