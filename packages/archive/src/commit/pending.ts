import { lstat, readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { ARCHIVE_FILE, parseArchiveFile, PENDING } from '../format/layout.js';
import { syncFolder } from '../disk/durable.js';
import { readPlain } from '../disk/hostile.js';
import { rm, rmdir } from '../disk/medium.js';

/**
 * Work in progress. A new archive grows in a folder beside its final place that nothing lists; a further
 * backup grows below `pending/` in the archive. Either is kept when a run is cut off, so that the next
 * one goes on from it. It belongs to the backup whose id it carries: no other takes it up, or clears it away.
 */
export const UNFINISHED = '.unfinished-';
const uuid = /^[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** Where a new archive grows until it is whole. */
export function stagingFolder(folder: string): string {
  return join(dirname(folder), UNFINISHED + basename(folder));
}

export const pendingFolder = (root: string, backup: string) => join(root, PENDING, backup);
/** Key files and the archive's file of a new archive. */
export const FOUNDATION = `${PENDING}/foundation`;

/** Backups that were begun in an archive's folder and not committed. */
export async function pendingBackups(root: string): Promise<string[]> {
  const names = await readdir(join(root, PENDING)).catch(() => [] as string[]);
  return names.filter((name) => uuid.test(name)).sort();
}

/** The id of an archive that is begun and not whole yet; null where none is. */
export function begunArchive(staging: string): string | null {
  for (const file of [ARCHIVE_FILE, join(FOUNDATION, basename(ARCHIVE_FILE))]) {
    try {
      return parseArchiveFile(readPlain(join(staging, file), 4096).toString('utf8'));
    } catch {
      // Not there, or not there yet.
    }
  }
  return null;
}

/** A run that was cut off and can go on. */
export interface Unfinished {
  backup: string;
  /** Bytes already on the medium. */
  storedBytes: number;
}

/**
 * What was begun for an archive and not committed: also where the archive itself is not there yet.
 * @param of the backup; whichever there is where not said
 */
export async function unfinishedRun(folder: string, of?: string): Promise<Unfinished | null> {
  for (const root of [folder, stagingFolder(folder)]) {
    const backup = (await pendingBackups(root)).find((id) => of === undefined || id === of);
    if (backup === undefined) continue;
    const pending = pendingFolder(root, backup);
    let storedBytes = 0;
    for (const name of await readdir(pending))
      storedBytes += (await stat(join(pending, name))).size;
    return { backup, storedBytes };
  }
  return null;
}

/** Removes what was begun for a backup and not committed. What is committed, and what others began, is not touched. */
export async function discardUnfinished(folder: string, backup: string): Promise<void> {
  for (const root of [folder, stagingFolder(folder)]) {
    if (!(await pendingBackups(root)).includes(backup)) continue;
    await rm(pendingFolder(root, backup), { recursive: true, force: true });
    await removeStaging(folder);
    // Stays where other work is in progress.
    await rmdir(join(root, PENDING)).catch(() => undefined);
    await syncFolder(dirname(folder));
  }
}

/** A new archive in which no backup is begun any more is nothing. */
async function removeStaging(folder: string): Promise<void> {
  const staging = stagingFolder(folder);
  const isThere = await lstat(staging).then(
    () => true,
    () => false,
  );
  if (!isThere || (await pendingBackups(staging)).length > 0) return;
  await rm(staging, { recursive: true, force: true });
}

/** Folders of work that cannot go on. Whoever holds the archive's lock clears them away. */
const passing = ['foundation', 'holders', 'prune', 'rekey', 'reindex', 'repair', 'commit-draft'];

/** Clears away what was left behind by work that was cut off and does not go on from it. */
export async function tidyPending(folder: string): Promise<void> {
  try {
    const names = await readdir(join(folder, PENDING)).catch(() => [] as string[]);
    for (const name of names.filter((n) => passing.includes(n))) {
      await rm(join(folder, PENDING, name), { recursive: true, force: true });
    }
    if (names.length > 0) await rmdir(join(folder, PENDING)).catch(() => undefined);
  } catch {
    // A medium that cannot be written keeps it.
  }
}
