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
import { and, eq, lte } from 'drizzle-orm';
import { backups, copies, proofs } from '../../database/schema.js';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeCopy, judgeProof, type Judgement, type KnownCopy } from './judge-proof.js';

/**
 * Looks at a whole archive as closely as was asked, and records what was found: with the archive, and in
 * the catalogue for each of its backups. Damage is recorded too: it is the news that matters most.
 */
async function proveBackup(job: Job<'prove'>): Promise<Ending<'prove'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const files = await copyFiles(job.db, input.copyId);
  const known = await whatIsKnown(job);
  const report = await look(job, files);
  // A rack that can be read only still gives a proof; it is in the catalogue then.
  await recordProof(files, report, new Date()).catch(() => undefined);
  const judged = judgeProof(report, known.copy, known.backups);
  const own = judged.find(({ backupId }) => backupId === job.backupId);
  const record = (unit: Unit) => recordJudgements(unit, job, report, known.copy, judged);
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

/** What the catalogue says before the look: what is added to the archive beside it is not judged. */
async function whatIsKnown({ db, input }: Job<'prove'>) {
  const [copy] = await db.select().from(copies).where(eq(copies.id, input.copyId));
  if (!copy) throw new Failure('not-found');
  return {
    copy,
    backups: await db
      .select()
      .from(backups)
      .where(and(eq(backups.archiveId, copy.archiveId), lte(backups.generation, copy.generation))),
  };
}

async function recordJudgements(
  unit: Unit,
  job: Job<'prove'>,
  report: VerifyReport,
  before: KnownCopy,
  judged: readonly Judgement[],
): Promise<void> {
  const { tx } = unit;
  const { copyId } = job.input;
  const [copy] = await tx.select().from(copies).where(eq(copies.id, copyId)).for('update');
  if (!copy) return;
  const found = judgeCopy(report, before, copy);
  if (found) {
    await tx
      .update(copies)
      .set({ ...found, checkedAt: unit.now, checkedLevel: report.level })
      .where(eq(copies.id, copyId));
  }
  unit.changed('archive', copy.archiveId);
  const generation = report.contents?.generation ?? before.generation;
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
