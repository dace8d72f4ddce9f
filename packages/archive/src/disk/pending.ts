import { access, readdir, rm, rmdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { syncFolder } from './durable.js';
import { PENDING } from '../format/layout.js';

/**
 * Work in progress. A new archive grows in a folder beside its final place that nothing lists; a further
 * backup grows below `pending/` in the archive. Either is kept when a run is cut off, so that the next
 * one goes on from it.
 */
const PREFIX = '.unfinished-';
const uuid = /^[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** Where a new archive grows until it is whole. */
export function stagingFolder(folder: string): string {
  return join(dirname(folder), PREFIX + basename(folder));
}

export const pendingFolder = (root: string, backup: string) => join(root, PENDING, backup);
/** Key files and the archive's file of a new archive. */
export const FOUNDATION = `${PENDING}/foundation`;

/** The backup that was begun in an archive's folder and not committed, if there is one. */
export async function pendingBackup(root: string): Promise<string | null> {
  const names = await readdir(join(root, PENDING)).catch(() => [] as string[]);
  return names.find((name) => uuid.test(name)) ?? null;
}

/** A run that was cut off and can go on. */
export interface Unfinished {
  backup: string;
  /** Bytes already on the medium. */
  storedBytes: number;
}

/** What was begun for an archive and not committed: also where the archive itself is not there yet. */
export async function unfinishedRun(folder: string): Promise<Unfinished | null> {
  for (const root of [folder, stagingFolder(folder)]) {
    const backup = await pendingBackup(root);
    if (backup === null) continue;
    const pending = pendingFolder(root, backup);
    let storedBytes = 0;
    for (const name of await readdir(pending))
      storedBytes += (await stat(join(pending, name))).size;
    return { backup, storedBytes };
  }
  return null;
}

/** Removes what was begun for an archive and not committed. What is committed is not touched. */
export async function discardUnfinished(folder: string): Promise<void> {
  const staging = stagingFolder(folder);
  const backup = await pendingBackup(folder);
  if (backup !== null) {
    await rm(pendingFolder(folder, backup), { recursive: true, force: true });
    // Stays where other work is in progress.
    await rmdir(join(folder, PENDING)).catch(() => undefined);
    await syncFolder(folder);
  }
  const isThere = await access(staging).then(
    () => true,
    () => false,
  );
  if (!isThere) return;
  await rm(staging, { recursive: true, force: true });
  await syncFolder(dirname(folder));
}
