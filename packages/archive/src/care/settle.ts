import { Failure } from '@bright-cellar/core';
import { lockArchive } from '../disk/lock.js';
import { discardUnfinished } from '../disk/pending.js';
import { payloadNames } from '../open/archive-folder.js';
import { backupIds } from '../open/backup-list.js';
import { findRoot, openGroundKey } from '../pack/ground.js';
import type { Secret } from '../keys/holders.js';

/**
 * After a crash: completes what was decided before it.
 * @returns ids of the backups that are committed; none where there is no archive.
 * @throws Failure `archive-in-use`.
 */
export async function settleArchive(folder: string): Promise<string[]> {
  const lock = await lockArchive(folder);
  try {
    const root = await findRoot(folder);
    return root === folder ? backupIds(await payloadNames(folder)) : [];
  } finally {
    await lock.release();
  }
}

/**
 * Whether a secret opens an archive, or one that was begun and is not whole yet.
 * @throws Failure `wrong-password`, `archive-not-here`, `archive-damaged`.
 */
export async function trySecret(folder: string, secret: Secret): Promise<void> {
  const key = await openGroundKey(folder, secret);
  if (!key) throw new Failure('archive-not-here');
  key.forget();
}

/** Gives up a run that was cut off. @throws Failure `archive-in-use`. */
export async function discardRun(folder: string): Promise<void> {
  const lock = await lockArchive(folder);
  try {
    await discardUnfinished(folder);
  } finally {
    await lock.release();
  }
}
