import {
  OpenArchive,
  pruneArchive,
  recordProof,
  recoverArchive,
  verifyOpen,
  withPassword,
} from '@bright-cellar/archive';
import { countOf, Failure, formatBytes, type OperationInput } from '@bright-cellar/core';
import { copyFiles, recordPruning } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeProof } from '../prove/judge-proof.js';
import { recordLook, whatIsKnown } from '../prove/record-look.js';

type Pruned = NonNullable<OperationInput<'prune'>['pruned']>;

/** Takes backups out of a copy, and proves what stays. The other copies are brought up to date by the house rules. */
async function pruneCopy(job: Job<'prune'>): Promise<Ending<'prune'>> {
  const { db, input, progress, signal, threads, acting } = job;
  const elapsed = stopwatch();
  const files = await copyFiles(db, input.copyId);
  const before = await whatIsKnown(db, input.copyId);
  const secret = withPassword(job.password.use());
  const open = await OpenArchive.open(files, secret, { threads });
  const decided: Pruned[] = [];
  try {
    await progress.phase('pruning', { bytes: before.copy.storedBytes, items: 0 });
    await pruneArchive(open, input.keep, {
      signal,
      onProgress: (bytes) => progress.add(bytes, 0),
      beforeDeciding: async ({ generation, manifestDigest, payloadBytes }) => {
        const pruned = { generation, digest: manifestDigest, storedBytes: payloadBytes };
        decided.push(pruned);
        await job.saveInput({ ...input, pruned });
      },
    });
  } finally {
    await open.close();
  }
  const [state] = decided;
  if (!state) throw new Error('nothing was decided');
  // On record at once: what stays is read for as long as a proof takes.
  await unitOfWork(acting, (unit) => recordPruning(unit, before.copy, state, input.gone));
  const known = await whatIsKnown(db, input.copyId);
  const again = await OpenArchive.open(files, secret, { lease: 'shared', threads });
  try {
    const items = known.backups.reduce((sum, backup) => sum + backup.items, 0);
    const report = await verifyOpen(again, {
      ...{ level: 'full', signal, threads },
      onPhase: (phase, bytes) =>
        void progress.phase(phase, { bytes, items: phase === 'reading' ? items : 0 }),
      onProgress: (bytes, count) => progress.add(bytes, count),
    });
    await recordProof(files, report, acting.clock.now()).catch(() => undefined);
    const judged = judgeProof(report, known.copy, known.backups);
    const look = { report, before: known.copy, judged, durationMs: elapsed() };
    const record = (unit: Unit) => recordLook(unit, job, look);
    const damage = judged.find(({ outcome }) => outcome === 'damaged')?.what;
    if (!report.whole || damage !== undefined) {
      await unitOfWork(acting, record);
      throw new Failure('archive-damaged', { what: damage ?? damageOf(report) });
    }
    return { ...endingOf(job.input, before.copy.storedBytes, state, elapsed()), record };
  } finally {
    await again.close();
  }
}

function endingOf(
  { rackName, gone }: OperationInput<'prune'>,
  before: number,
  { storedBytes, digest }: Pruned,
  durationMs: number,
): Ending<'prune'> {
  const freedBytes = Math.max(0, before - storedBytes);
  return {
    what: `${countOf(gone.length, 'backup')} taken out: ${formatBytes(freedBytes)} freed on ${rackName}; what stays was proven.`,
    result: {
      ...{ items: gone.length, bytes: freedBytes, failed: [], durationMs },
      ...{ rackName, gone: gone.length, freedBytes, storedBytes, digest },
    },
  };
}

export const pruneRun: Run<'prune'> = {
  run: pruneCopy,
  // Decided on the medium and not on record: it is put there, and its proof is for somebody to make.
  async recover({ input }, { db }) {
    const { pruned } = input;
    if (!pruned) return null;
    const { copy } = await whatIsKnown(db, input.copyId);
    if (copy.digest === pruned.digest) return null;
    const { digest } = await recoverArchive(await copyFiles(db, input.copyId));
    if (digest !== pruned.digest) return null;
    return {
      ...endingOf(input, copy.storedBytes, pruned, 0),
      what: `${countOf(input.gone.length, 'backup')} taken out; what stays is to be proven.`,
      record: (unit) => recordPruning(unit, copy, pruned, input.gone),
    };
  },
};
