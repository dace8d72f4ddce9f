import {
  archiveIn,
  backupIds,
  OpenArchive,
  readPayload,
  readArchiveId,
  readProofs,
  unfinishedRun,
} from '@bright-cellar/archive';
import { countOf, formatBytes, readableName } from '@bright-cellar/core';
import type { Output } from '../output.js';
import { readSecret, type SecretOptions } from '../secrets.js';
import { chooseBackup } from './choose-backup.js';

export interface ListOptions extends SecretOptions {
  items?: string;
}

/** `cellar list`: the backups of an archive; with the password also when they were taken and what is in them. */
export async function list(folder: string, options: ListOptions, output: Output): Promise<boolean> {
  const archive = await readArchiveId(archiveIn(folder));
  const proofs = await readProofs(archiveIn(folder));
  const latest = proofs.at(-1);
  const unfinished = await unfinishedRun(archiveIn(folder));
  const secret = await readSecret(options);
  output.say(`Archive ${archive}`, { type: 'archive', archive, proofs, unfinished });
  if (latest)
    output.say(`Last proof: ${latest.at}, ${latest.level}, ${latest.whole ? 'whole' : 'damaged'}`);
  if (unfinished) output.say(`Backup ${unfinished.backup} was begun and not finished.`);
  if (!secret) {
    for (const backup of backupIds((await readPayload(archiveIn(folder))).names)) {
      output.say(`Backup ${backup}`, { type: 'backup', backup });
    }
    return true;
  }
  const open = await OpenArchive.open(archiveIn(folder), secret, { threads: 0, lease: 'shared' });
  try {
    const { summaries, damaged } = await open.backups();
    for (const { header, end } of summaries) {
      const { backup, takenAt, label, ticket, device } = header;
      const name = [label, ticket, device?.name].filter(Boolean).join(', ');
      output.say(
        `Backup ${backup}  ${takenAt}  ${countOf(end.items, 'item')}, ${formatBytes(end.bytes)}; new ${formatBytes(end.newBytes)}  ${name}`,
        { ...end, type: 'backup', backup, takenAt, label, ticket, device },
      );
    }
    for (const backup of damaged) {
      output.say(`Backup ${backup}  damaged`, { type: 'backup', backup, damaged: true });
    }
    if (options.items !== undefined) {
      const { header } = await chooseBackup(open, options.items);
      for await (const { path, kind, bytes, modified } of open.items(header.backup)) {
        output.say(
          `${String(bytes).padStart(14)}  ${modified.slice(0, 19)}  ${readableName(path)}`,
          {
            type: 'item',
            ...{ path, kind, bytes, modified },
          },
        );
      }
    }
    return damaged.length === 0;
  } finally {
    await open.close();
  }
}
