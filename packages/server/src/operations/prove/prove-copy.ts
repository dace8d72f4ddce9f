import {
  OpenArchive,
  recordProof,
  verifyOpen,
  verifySealed,
  withPassword,
  type ArchiveFiles,
  type VerifyReport,
} from '@bright-cellar/archive';
import { Failure, type BackupId, type CopyId, type ProofLevel } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import type { Job } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeProof, type Judgement } from './judge-proof.js';
import { recordLook, whatIsKnown } from './record-look.js';

/** The work in which it is proven, and what it has for that. */
export type ProvingJob = Pick<
  Job<'prove'>,
  'operationId' | 'startedBy' | 'acting' | 'password' | 'db' | 'signal' | 'threads'
>;

/** What is told while a copy is looked at. */
export interface ProofNews {
  onPhase?: (phase: 'checking' | 'reading', bytes: number) => void;
  onProgress?: (bytes: number, items: number) => void;
}

export interface Proven {
  own: Judgement;
  report: VerifyReport;
  /** Writes what was found: with the end of the work, or at once. */
  record: (unit: Unit) => Promise<void>;
}

/**
 * Looks at a whole copy as closely as was asked, and keeps what was found: with the archive, and, once it is recorded, in the
 * catalogue for each of its backups. Damage is recorded at once: it is the news that matters most.
 * @throws Failure `archive-damaged` where the backup is not whole
 */
export async function proveCopy(
  job: ProvingJob,
  { copyId, backupId, level }: { copyId: CopyId; backupId: BackupId; level: ProofLevel },
  news: ProofNews = {},
): Promise<Proven> {
  const elapsed = stopwatch();
  const files = await copyFiles(job.db, copyId);
  const known = await whatIsKnown(job.db, copyId);
  const report = await look(job, files, level, news);
  // A rack that can be read only still gives a proof; it is in the catalogue then.
  await recordProof(files, report, new Date()).catch(() => undefined);
  const judged = judgeProof(report, known.copy, known.backups);
  const own = judged.find((one) => one.backupId === backupId);
  const record = (unit: Unit) =>
    recordLook(
      unit,
      { ...job, input: { copyId } },
      { report, before: known.copy, judged, durationMs: elapsed() },
    );
  if (own?.outcome !== 'whole') {
    await unitOfWork(job.acting, record);
    throw new Failure('archive-damaged', { what: own?.what ?? damageOf(report) });
  }
  return { own, report, record };
}

async function look(
  { password, signal, threads }: ProvingJob,
  files: ArchiveFiles,
  level: ProofLevel,
  news: ProofNews,
): Promise<VerifyReport> {
  const options = { level, signal, threads, ...news };
  if (password.use() === '') return verifySealed(files, options);
  const archive = await OpenArchive.open(files, withPassword(password.use()), {
    lease: 'shared',
    threads,
  });
  try {
    return await verifyOpen(archive, options);
  } finally {
    await archive.close();
  }
}
