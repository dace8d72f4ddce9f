import type { CommittedBackup, Committing, OperationKind } from '@bright-cellar/core';
import { recoverArchive, type ArchiveFiles } from '@bright-cellar/archive';
import { amountsOf } from '../archives/index.js';
import type { Ending } from '../engine/job.js';

/** What an operation that ended with a backup says of it. */
export const packedResult = (
  committed: CommittedBackup,
  { failed, durationMs }: Pick<Committing, 'failed' | 'durationMs'>,
) => ({
  ...amountsOf(committed),
  failed,
  durationMs,
  digest: committed.manifestDigest,
});

/**
 * How work ends whose backup was to be decided on its medium: as that tells.
 * @param committing what was on record right before; absent where it did not come so far
 * @throws Failure where nobody can tell now
 */
export async function endedOnMedium<Kind extends OperationKind>(
  committing: Committing | undefined,
  where: () => Promise<ArchiveFiles>,
  ending: (committing: Committing) => Ending<Kind>,
): Promise<Ending<Kind> | null> {
  if (!committing) return null;
  const { backups } = await recoverArchive(await where());
  return backups.includes(committing.committed.backup) ? ending(committing) : null;
}
