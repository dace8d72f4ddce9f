import { repairFrom, verifySealed } from '@bright-cellar/archive';
import { countOf, Failure } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeProof } from '../prove/judge-proof.js';
import { recordLook, whatIsKnown } from '../prove/record-look.js';

/** Replaces what is damaged in a copy from another, then reads all of it back: what it is then is what was read. */
async function repairCopy(job: Job<'repair'>): Promise<Ending<'repair'>> {
  const { db, input, progress, signal, threads } = job;
  const elapsed = stopwatch();
  const files = await copyFiles(db, input.copyId);
  await progress.phase('repairing', { bytes: input.storedBytes, items: 0 });
  const { repaired, stillDamaged } = await repairFrom(files, await copyFiles(db, input.fromId), {
    ...{ threads, signal },
    onProgress: (bytes) => progress.add(bytes, 0),
  });
  const reading = stopwatch();
  const report = await verifySealed(files, {
    ...{ level: 'bytes', threads, signal },
    onPhase: (_, bytes) => void progress.phase('checking', { bytes, items: 0 }),
    onProgress: (bytes) => progress.add(bytes, 0),
  });
  const known = await whatIsKnown(db, input.copyId);
  const judged = judgeProof(report, known.copy, known.backups);
  const look = { report, before: known.copy, judged, durationMs: reading() };
  const record = (unit: Unit) => recordLook(unit, job, look);
  const damage = judged.find(({ outcome }) => outcome === 'damaged')?.what;
  if (!report.whole || damage !== undefined) {
    await unitOfWork(job.acting, record);
    const left =
      stillDamaged.length > 0
        ? `${countOf(stillDamaged.length, 'file')} could not be repaired: the copy on ${input.fromName} is damaged there too.`
        : (damage ?? damageOf(report));
    throw new Failure('archive-damaged', {
      what: `${countOf(repaired.length, 'file')} of the copy on ${input.rackName} replaced. ${left}`,
      safe: 'What was whole was not touched, and what was replaced is whole.',
      next: 'Try another copy, or take a new backup. Erase nothing that relies on this one.',
    });
  }
  const { storedBytes, manifestDigest: digest, files: items } = report;
  return {
    what: `Copy on ${input.rackName} repaired from ${input.fromName}: ${countOf(repaired.length, 'file')} replaced, all of it read back.`,
    result: {
      ...{ items, bytes: storedBytes, failed: [], durationMs: elapsed() },
      ...{ rackName: input.rackName, fromName: input.fromName },
      ...{ repaired: repaired.length, storedBytes, digest },
    },
    record,
  };
}

export const repairRun: Run<'repair'> = { run: repairCopy };
