import { readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { syncFolder } from '../disk/durable.js';
import { readPlain } from '../disk/hostile.js';
import { rm, rmdir } from '../disk/medium.js';
import { ARCHIVE_FILE, parseArchiveFile, PENDING } from '../format/layout.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import type { Work } from '../store/store.js';

/**
 * Work in progress, below `pending/` of an archive's work. It is kept when a run is cut off, so that the next
 * one goes on from it. It belongs to the backup whose id it carries: no other takes it up, or clears it away.
 */
const uuid = /^[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

export const pendingFolder = (root: string, backup: string) => join(root, PENDING, backup);
/** Key files and the archive's file of a new archive. */
export const FOUNDATION = `${PENDING}/foundation`;

/** Backups that were begun in an archive's work and not committed. */
export async function pendingBackups(root: string): Promise<string[]> {
  const names = await readdir(join(root, PENDING)).catch(() => [] as string[]);
  return names.filter((name) => uuid.test(name)).sort();
}

/** The id of an archive that is begun and not whole yet; null where none is. */
export function begunArchive(root: string): string | null {
  try {
    const file = join(root, FOUNDATION, basename(ARCHIVE_FILE));
    return parseArchiveFile(readPlain(file, 4096).toString('utf8'));
  } catch {
    // Not there, or not there yet.
    return null;
  }
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
export async function unfinishedRun(files: ArchiveFiles, of?: string): Promise<Unfinished | null> {
  const { root } = await files.work();
  const backup = (await pendingBackups(root)).find((id) => of === undefined || id === of);
  if (backup === undefined) return null;
  const pending = pendingFolder(root, backup);
  let storedBytes = 0;
  for (const name of await readdir(pending)) storedBytes += (await stat(join(pending, name))).size;
  return { backup, storedBytes };
}

/**
 * Removes what was begun and not committed. What is committed, and what others began, is not touched.
 * @param begun a backup's id, or the name of other work
 */
export async function discardUnfinished({ root, isNew }: Work, begun: string): Promise<void> {
  const others = (await pendingBackups(root)).filter((id) => id !== begun);
  // A new archive in which no backup is begun any more is nothing.
  if (isNew && others.length === 0) {
    await rm(root, { recursive: true, force: true });
    await syncFolder(dirname(root));
    return;
  }
  await rm(pendingFolder(root, begun), { recursive: true, force: true });
  // Stays where other work is in progress.
  await rmdir(join(root, PENDING)).catch(() => undefined);
  await syncFolder(root);
}
