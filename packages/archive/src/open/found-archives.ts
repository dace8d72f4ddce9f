import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { MANIFEST } from '../format/bag.js';
import { ARCHIVE_FILE, idOf } from '../format/layout.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { backupIds } from './backup-list.js';
import { listPayload, namesOf, readArchiveId, readPayload } from './archive-contents.js';

/** What an archive says of itself without its password: its file names, which anybody can read. */
export interface FoundArchive {
  archive: string;
  /** Which state of it this is. */
  generation: number;
  /** SHA-512 of its manifest; empty where there is none. */
  digest: string;
  storedBytes: number;
  backups: number;
  /** Whether it has a key for the holder of an escrow too. */
  hasEscrow: boolean;
  /** Files that its manifest names and that are not there. */
  missing: number;
}

/** @throws Failure `archive-not-here` where no archive lies there, `archive-damaged` */
export async function lookAtArchive(files: ArchiveFiles): Promise<FoundArchive> {
  const archive = await readArchiveId(files);
  const { names, digest } = await readPayload(files);
  const there = new Map((await listPayload(files)).map(({ name, bytes }) => [name, bytes ?? 0]));
  const generations = names.map((name) => Number(idOf('roster', name) ?? 0));
  return {
    archive,
    generation: Math.max(0, ...generations),
    digest: digest ?? '',
    storedBytes: [...there.values()].reduce((sum, bytes) => sum + bytes, 0),
    backups: backupIds(names).length,
    hasEscrow: namesOf('escrow', names).length > 0,
    missing: names.filter((name) => !there.has(name)).length,
  };
}

/** How deep a folder is searched; what lies in an archive is not. */
const DEPTH = 5;
/** Whoever chooses a whole disk waits for no more than this. */
const FOLDERS_MOST = 20_000;

/** Folders of this computer at or below one in which an archive lies, whatever they are called. Links are not followed. */
export async function archivesBelow(folder: string): Promise<string[]> {
  const found: string[] = [];
  const waiting = [{ path: folder, depth: 0 }];
  let looked = 0;
  for (let next = waiting.shift(); next && looked < FOLDERS_MOST; next = waiting.shift()) {
    const { path, depth } = next;
    looked += 1;
    if (await isArchive(path)) {
      found.push(path);
      continue;
    }
    if (depth === DEPTH) continue;
    const entries = await readdir(path, { withFileTypes: true }).catch(() => []);
    for (const entry of entries) {
      if (!entry.isDirectory() || entry.name.startsWith('.')) continue;
      waiting.push({ path: join(path, entry.name), depth: depth + 1 });
    }
  }
  return found.sort();
}

const isFile = (path: string) =>
  lstat(path).then(
    (info) => info.isFile(),
    () => false,
  );

/** Whether one lies there: also one of which something is missing. */
const isArchive = async (path: string) =>
  (await isFile(join(path, ARCHIVE_FILE))) || (await isFile(join(path, MANIFEST)));
