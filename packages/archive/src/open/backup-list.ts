import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import {
  decodeLines,
  type BackupEnd,
  type BackupHeader,
  type BackupLine,
} from '../format/backup-lines.js';
import { idOf } from '../format/layout.js';
import { SealedReader } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { namesOf } from './archive-folder.js';

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
export function summaryOf(
  folder: string,
  names: readonly string[],
  backup: string,
  key: ArchiveKey,
): BackupSummary {
  const reader = new SealedReader(join(folder, listOf(names, backup)), 'backup', key);
  try {
    const first = reader.frames().next();
    const header = first.done ? undefined : firstOf(decodeLines(first.value.plain));
    const end = [...decodeLines(reader.lastFrame().plain)].at(-1);
    if (header?.type !== 'backup' || header.backup !== backup || end?.type !== 'end') {
      throw new Failure('archive-damaged');
    }
    return { header, end };
  } finally {
    reader.close();
  }
}

/** Every backup that can be read, oldest first, and the ids of those that cannot. */
export function summariesOf(
  folder: string,
  names: readonly string[],
  key: ArchiveKey,
): { summaries: BackupSummary[]; damaged: string[] } {
  const summaries: BackupSummary[] = [];
  const damaged: string[] = [];
  for (const id of backupIds(names)) {
    try {
      summaries.push(summaryOf(folder, names, id, key));
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      damaged.push(id);
    }
  }
  summaries.sort((a, b) => Date.parse(a.header.takenAt) - Date.parse(b.header.takenAt));
  return { summaries, damaged };
}

export function latestBackup(
  folder: string,
  names: readonly string[],
  key: ArchiveKey,
): BackupSummary | null {
  return summariesOf(folder, names, key).summaries.at(-1) ?? null;
}

function firstOf(lines: Iterable<BackupLine>): BackupLine | undefined {
  for (const line of lines) return line;
  return undefined;
}
