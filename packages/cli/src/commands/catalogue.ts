import { readFile } from 'node:fs/promises';
import {
  archiveIn,
  archivesBelow,
  lookAtArchive,
  OpenArchive,
  withPassword,
  type ArchiveFiles,
} from '@bright-cellar/archive';
import { countOf, Failure, formatBytes, problemOf } from '@bright-cellar/core';
import type { Output } from '../output.js';
import { UsageError } from '../usage.js';

export interface CatalogueOptions {
  passwordFile?: string;
}

/**
 * `cellar catalogue`: what lies below folders, whatever it is called, and with the passwords whose it is: what the application
 * takes up again when its own catalogue was lost.
 */
export async function catalogue(
  folders: readonly string[],
  options: CatalogueOptions,
  output: Output,
): Promise<boolean> {
  const passwords = await passwordsIn(options.passwordFile);
  let isWhole = true;
  for (const folder of folders) {
    for (const path of await archivesBelow(folder)) {
      try {
        isWhole = (await catalogueOne(path, passwords, output)) && isWhole;
      } catch (error) {
        const { code, what } = problemOf(error);
        output.say(`${path}\n  ${what}`, { type: 'archive', path, problem: { code, what } });
        isWhole = false;
      }
    }
  }
  return isWhole;
}

/** One a line; empty lines say nothing. */
async function passwordsIn(path: string | undefined): Promise<string[]> {
  if (path === undefined) return [];
  const text = await readFile(path, 'utf8').catch((error: unknown) => {
    throw new UsageError(`The password file ${path} cannot be read.`, { cause: error });
  });
  return text.split(/\r?\n/).filter((line) => line !== '');
}

async function catalogueOne(
  path: string,
  passwords: readonly string[],
  output: Output,
): Promise<boolean> {
  const files = archiveIn(path);
  const { archive, generation, digest, storedBytes, backups, missing } = await lookAtArchive(files);
  output.say(
    `${path}\n  Archive ${archive}, state ${generation}: ${countOf(backups, 'backup')}, ${formatBytes(storedBytes)}${missing > 0 ? `; ${countOf(missing, 'file')} missing` : ''}`,
    { type: 'archive', path, archive, generation, digest, storedBytes, backups, missing },
  );
  const open = await openWithAny(files, passwords);
  if (!open) {
    output.say('  No password that was given opens it.');
    return missing === 0;
  }
  try {
    const { summaries, damaged } = await open.backups();
    for (const { header, end } of summaries) {
      const { backup, takenAt, label, ticket, device, sheet } = header;
      const whose = [sheet?.customer.name, device?.name, label, ticket && `ticket ${ticket}`];
      output.say(
        `  ${takenAt}  ${whose.filter(Boolean).join(', ')}: ${countOf(end.items, 'item')}, ${formatBytes(end.bytes)}`,
        { ...end, type: 'backup', archive, backup, takenAt, label, ticket, device, sheet },
      );
    }
    for (const backup of damaged) {
      output.say(`  Backup ${backup} is damaged`, {
        type: 'backup',
        archive,
        backup,
        damaged: true,
      });
    }
    return missing === 0 && damaged.length === 0;
  } finally {
    await open.close();
  }
}

/** Null where none opens it. */
async function openWithAny(
  files: ArchiveFiles,
  passwords: readonly string[],
): Promise<OpenArchive | null> {
  for (const password of passwords) {
    try {
      return await OpenArchive.open(files, withPassword(password), { threads: 0, lease: 'shared' });
    } catch (error) {
      if (!(error instanceof Failure && error.problem.code === 'wrong-password')) throw error;
    }
  }
  return null;
}
