import type { CommittedBackup } from '@bright-cellar/core';
import { BackupRun, type BackupOptions } from './backup-run.js';
import { look, walk, type Found } from './walk.js';

export interface PackFolderOptions extends Omit<BackupOptions, 'ticket' | 'device' | 'takenAt'> {
  source: string;
  takenAt?: Date;
  signal?: AbortSignal;
}

/**
 * Takes a backup of a plain folder. What was taken before and has not changed is not read again.
 * @throws what {@link BackupRun.begin} throws; `signal`'s reason. What was sealed is kept then, and the
 * next call goes on with it.
 */
export async function packFolder(options: PackFolderOptions): Promise<CommittedBackup> {
  const { source, takenAt = new Date(), signal } = options;
  const run = await BackupRun.begin({ ...options, ticket: '', device: null, takenAt });
  try {
    await addFolder(run, source, async () => signal?.throwIfAborted());
    return await run.commit();
  } catch (error) {
    await run.suspend();
    throw error;
  }
}

/**
 * Adds all of a plain folder to a run; what changed while it was read is read once more.
 * @param goOn called before each item: may wait, or throw to end it
 */
export async function addFolder(
  run: BackupRun,
  source: string,
  goOn: () => Promise<void>,
): Promise<void> {
  for (const found of walk(source)) {
    await goOn();
    await add(run, found, false);
  }
  await run.flush();
  for (const { item, path } of run.takeChanged()) {
    await add(run, look(path, item.path), true);
  }
  await run.flush();
  await goOn();
}

async function add(run: BackupRun, found: Found, again: boolean): Promise<void> {
  if (found.type === 'failed') run.addFailure(found.failed);
  else if (found.type === 'file') await run.addFile(found.item, found.path, again);
  else await run.addContents(found.item, () => (found.type === 'link' ? [found.target] : []));
}
