import { Failure } from '@bright-cellar/core';
import { discardUnfinished } from '../commit/pending.js';
import type { Secret } from '../keys/holders.js';
import { readPayload } from '../open/archive-contents.js';
import { backupIds } from '../open/backup-list.js';
import { openWorkspaceKey } from '../pack/workspace.js';
import type { ArchiveFiles } from '../store/archive-files.js';

export interface RecoveredArchive {
  /** Ids of the backups that are committed; none where there is no archive. */
  backups: string[];
  /** SHA-512 of its manifest; empty where there is none. */
  digest: string;
}

/**
 * After a crash: completes what was decided before it, which every lease does.
 * @throws Failure `archive-in-use`, `archive-damaged`, `rack-not-here`.
 */
export async function recoverArchive(files: ArchiveFiles): Promise<RecoveredArchive> {
  const lease = await files.lease('update');
  try {
    if ((await files.work()).isNew) return { backups: [], digest: '' };
    const { names, digest } = await readPayload(files);
    return { backups: backupIds(names), digest: digest ?? '' };
  } finally {
    await lease.release();
  }
}

/**
 * Whether a secret opens an archive, or one that was begun and is not whole yet.
 * @throws Failure `wrong-password`, `archive-not-here`, `archive-damaged`.
 */
export async function trySecret(files: ArchiveFiles, secret: Secret): Promise<void> {
  const key = await openWorkspaceKey(files, secret);
  if (!key) throw new Failure('archive-not-here');
  key.forget();
}

/** Gives up a backup that was cut off. @throws Failure `archive-in-use`. */
export async function discardRun(files: ArchiveFiles, backup: string): Promise<void> {
  const lease = await files.lease('update');
  try {
    await discardUnfinished(await files.work(), backup);
  } finally {
    await lease.release();
  }
}
