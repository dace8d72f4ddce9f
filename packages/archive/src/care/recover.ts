import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { lockArchive } from '../disk/lock.js';
import { discardUnfinished, tidyPending } from '../commit/pending.js';
import { MANIFEST, sha512Of } from '../format/bag.js';
import { payloadNames } from '../open/archive-folder.js';
import { backupIds } from '../open/backup-list.js';
import { findRoot, openWorkspaceKey } from '../pack/workspace.js';
import type { Secret } from '../keys/holders.js';

export interface RecoveredArchive {
  /** Ids of the backups that are committed; none where there is no archive. */
  backups: string[];
  /** SHA-512 of its manifest; empty where there is none. */
  digest: string;
}

/**
 * After a crash: completes what was decided before it.
 * @throws Failure `archive-in-use`, `archive-damaged`, `rack-not-here`.
 */
export async function recoverArchive(folder: string): Promise<RecoveredArchive> {
  const lock = await lockArchive(folder);
  try {
    const root = await findRoot(folder);
    if (root !== folder) return { backups: [], digest: '' };
    await tidyPending(folder);
    const digest = sha512Of(await readFile(join(folder, MANIFEST)).catch(() => ''));
    return { backups: backupIds(await payloadNames(folder)), digest };
  } finally {
    await lock.release();
  }
}

/**
 * Whether a secret opens an archive, or one that was begun and is not whole yet.
 * @throws Failure `wrong-password`, `archive-not-here`, `archive-damaged`.
 */
export async function trySecret(folder: string, secret: Secret): Promise<void> {
  const key = await openWorkspaceKey(folder, secret);
  if (!key) throw new Failure('archive-not-here');
  key.forget();
}

/** Gives up a backup that was cut off. @throws Failure `archive-in-use`. */
export async function discardRun(folder: string, backup: string): Promise<void> {
  const lock = await lockArchive(folder);
  try {
    await discardUnfinished(folder, backup);
  } finally {
    await lock.release();
  }
}
