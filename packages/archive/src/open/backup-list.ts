import { Failure } from '@bright-cellar/core';
import { isFinding } from '../disk/errors.js';
import {
  decodeLines,
  type BackupEnd,
  type BackupHeader,
  type BackupLine,
} from '../format/backup-lines.js';
import { idOf } from '../format/layout.js';
import type { Roster, RosterBackup } from '../format/roster.js';
import { SealedReader } from '../format/sealed-file.js';
import type { Files } from '../store/store.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { namesOf } from './archive-contents.js';

/** One backup of an archive, without its items. */
export interface BackupSummary {
  header: BackupHeader;
  end: BackupEnd;
}

/** Ids of the backups among these names. */
export function backupIds(names: readonly string[]): string[] {
  return namesOf('backup', names).map((name) => idOf('backup', name) ?? '');
}

/** The file of a backup's list. @throws Failure `not-found`. */
export function listOf(names: readonly string[], backup: string): string {
  const name = names.find((candidate) => idOf('backup', candidate) === backup);
  if (name === undefined)
    throw new Failure('not-found', { what: 'That is no backup of this archive.' });
  return name;
}

/** @throws Failure `not-found`, `archive-damaged`. */
export async function summaryOf(
  files: Files,
  names: readonly string[],
  backup: string,
  key: ArchiveKey,
): Promise<BackupSummary> {
  const reader = await SealedReader.open(files, listOf(names, backup), 'backup', key);
  try {
    const first = await reader.frames().next();
    const header = first.done ? undefined : firstOf(decodeLines(first.value.plain));
    const end = [...decodeLines((await reader.lastFrame()).plain)].at(-1);
    if (header?.type !== 'backup' || header.backup !== backup || end?.type !== 'end') {
      throw new Failure('archive-damaged');
    }
    return { header, end };
  } finally {
    reader.close();
  }
}

/** The backups there should be, the newest last; of those taken in the same moment the one that came later. */
export function inOrder(roster: Roster): RosterBackup[] {
  return [...roster.backups.values()].sort((a, b) => Date.parse(a.takenAt) - Date.parse(b.takenAt));
}

/**
 * The newest backup that there should be; null where there is none.
 * @throws Failure `archive-damaged` when its list is missing or cannot be read: an older one is not the newest.
 */
export async function latestOf(
  files: Files,
  roster: Roster,
  key: ArchiveKey,
): Promise<BackupSummary | null> {
  const latest = inOrder(roster).at(-1);
  if (!latest) return null;
  try {
    return await summaryOf(files, [latest.list], latest.backup, key);
  } catch (error) {
    if (!isFinding(error)) throw error;
    throw new Failure(
      'archive-damaged',
      {
        what: `The newest backup of this archive, of ${latest.takenAt.slice(0, 16).replace('T', ' ')} UTC, cannot be read.`,
        next: 'Mend it from another copy, or name an older backup.',
      },
      { cause: error },
    );
  }
}

function firstOf(lines: Iterable<BackupLine>): BackupLine | undefined {
  for (const line of lines) return line;
  return undefined;
}
