import { setTimeout as sleep } from 'node:timers/promises';
import { recordProof, verifySealed, type VerifyReport } from '@bright-cellar/archive';
import { archiveLock, Failure, formatBytes } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import { isHeld } from '../../engine/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { unitOfWork, type Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeProof } from '../prove/judge-proof.js';
import { recordLook, whatIsKnown } from '../prove/record-look.js';

/** Whoever adds to an archive has decided it on the medium before they write it down: that takes no longer. */
const WRITTEN_DOWN_AT_MOST_MS = 60_000;
const ASK_AGAIN_MS = 250;

/** Reads every stored byte of one copy back, without its password. Damage is recorded too. */
async function checkCopy(job: Job<'check'>): Promise<Ending<'check'>> {
  const { db, input, progress, signal } = job;
  const elapsed = stopwatch();
  const files = await copyFiles(db, input.copyId);
  const report = await verifySealed(files, {
    ...{ level: 'bytes', threads: job.threads, signal },
    onPhase: (_, bytes) => void progress.phase('checking', { bytes, items: 0 }),
    onProgress: (bytes) => progress.add(bytes, 0),
    pace: () => job.giveWay(),
  });
  const durationMs = elapsed();
  const known = await knownAsLookedAt(job, report);
  await recordProof(files, report, job.acting.clock.now()).catch(() => undefined);
  const judged = judgeProof(report, known.copy, known.backups);
  const look = { report, before: known.copy, judged, durationMs };
  const record = (unit: Unit) => recordLook(unit, job, look);
  const damage = judged.find(({ outcome }) => outcome === 'damaged')?.what;
  if (!report.whole || damage !== undefined) {
    await unitOfWork(job.acting, record);
    throw new Failure('archive-damaged', {
      what: `The copy on ${input.rackName}: ${damage ?? damageOf(report)}`,
      next: 'Repair it from another copy, or take a new backup. Erase nothing that relies on this one.',
    });
  }
  const { storedBytes, manifestDigest: digest, files: items } = report;
  return {
    what: `Copy on ${input.rackName} checked: ${formatBytes(storedBytes)} read back, all of it as it was written.`,
    result: {
      ...{ items, bytes: storedBytes, failed: [], durationMs },
      ...{ rackName: input.rackName, storedBytes, digest },
    },
    record,
  };
}

/**
 * What the catalogue says of the state that was looked at. Where something was added beside the look, whoever did so may
 * still have to write it down.
 */
async function knownAsLookedAt(
  { db, input, archiveId, signal }: Job<'check'>,
  report: VerifyReport,
) {
  const until = performance.now() + WRITTEN_DOWN_AT_MOST_MS;
  for (;;) {
    const isAddedTo = await isHeld(db, archiveLock(archiveId, 'update'));
    const known = await whatIsKnown(db, input.copyId);
    const agrees = known.copy.digest === report.manifestDigest;
    if (agrees || !isAddedTo || performance.now() > until) return known;
    await sleep(ASK_AGAIN_MS, undefined, { signal });
  }
}

export const checkRun: Run<'check'> = { run: checkCopy };
