import { copyArchive, recoverArchive, type Copied } from '@bright-cellar/archive';
import {
  bytesPerSecond,
  formatBytes,
  type ArchiveId,
  type CopiedArchive,
  type OperationInput,
} from '@bright-cellar/core';
import { copyFiles, recordCopy } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { speedLimit } from '../../engine/give-way.js';
import { archiveAt } from '../../racks/index.js';
import { readSettings } from '../../settings/index.js';

/** Copies an archive onto another rack. It is a copy when it was read back from there, and not before. */
async function copyOnto(job: Job<'copy'>): Promise<Ending<'copy'>> {
  const { db, input, progress, signal } = job;
  const elapsed = stopwatch();
  const { copySpeed } = await readSettings(db);
  const keepTo = speedLimit(bytesPerSecond(copySpeed), signal);
  const pace = async (bytes: number) => {
    await job.giveWay();
    await keepTo(bytes);
  };
  const asKept = ({
    generation,
    manifestDigest,
    payloadBytes,
    ...more
  }: Copied): CopiedArchive => ({
    ...{ generation, digest: manifestDigest, storedBytes: payloadBytes },
    ...{ sent: more.sent, readBackMs: more.readBackMs },
    durationMs: elapsed(),
  });
  const copied = await copyArchive({
    from: await copyFiles(db, input.copyId),
    to: await archiveAt(db, input.to),
    onPhase: (phase, bytes) => void progress.phase(phase, { bytes, items: 0 }),
    onProgress: (bytes) => progress.add(bytes, 0),
    pace,
    beforeDeciding: (decided) => job.saveInput({ ...input, copied: asKept(decided) }),
    signal,
  });
  return copyEnding(job, input, asKept(copied));
}

interface CopyJob {
  archiveId: ArchiveId;
  operationId: string;
  startedBy: string;
}

/** How a copy ends its operation. Also used to finish the record of one that was cut off at the very end. */
function copyEnding(
  { archiveId, operationId, startedBy }: CopyJob,
  { to, rackName, hasEscrow }: OperationInput<'copy'>,
  { sent, durationMs, readBackMs, ...state }: CopiedArchive,
): Ending<'copy'> {
  const { storedBytes, digest } = state;
  return {
    what: `Copied onto ${rackName} and read back: ${formatBytes(sent.bytes)} of ${formatBytes(storedBytes)}.`,
    result: {
      ...{ items: sent.files, bytes: sent.bytes, failed: [], durationMs },
      ...{ rackName, sentBytes: sent.bytes, storedBytes, digest },
    },
    record: (unit) =>
      recordCopy(unit, { archiveId, ...to, hasEscrow }, state, {
        ...{ operationId, startedBy, readBytes: sent.bytes, durationMs: readBackMs },
      }),
  };
}

export const copyRun: Run<'copy'> = {
  run: copyOnto,
  async recover({ id, input, archiveId, startedBy }, { db }) {
    const { copied } = input;
    if (!copied) return null;
    const { digest } = await recoverArchive(await archiveAt(db, input.to));
    return digest === copied.digest
      ? copyEnding({ archiveId, operationId: id, startedBy }, input, copied)
      : null;
  },
};
