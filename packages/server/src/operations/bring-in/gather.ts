import type { OpenArchive } from '@bright-cellar/archive';
import {
  backupIdSchema,
  type BackupId,
  type ClassAmount,
  type FailedItems,
} from '@bright-cellar/core';
import { reasonWords, Tally } from '../tally.js';

type Header = Awaited<ReturnType<OpenArchive['latest']>>['header'];
type End = Awaited<ReturnType<OpenArchive['latest']>>['end'];

/** What an archive says of itself to whoever has its password. */
export interface Gathered {
  generation: number;
  /** The oldest first. */
  backups: {
    id: BackupId;
    header: Header;
    end: End;
    classes: ClassAmount[];
    failed: FailedItems[];
  }[];
  /** Backups whose list cannot be read. */
  lost: number;
}

/** Reads the list of every backup. */
export async function gathered(archive: OpenArchive): Promise<Gathered> {
  const { summaries, damaged } = await archive.backups();
  const backups: Gathered['backups'] = [];
  let lost = damaged.length;
  for (const { header, end } of summaries) {
    const tally = new Tally();
    try {
      for await (const listed of archive.list(header.backup)) {
        if (listed.type === 'item') tally.taken(listed.item);
        else tally.failed(listed.failed.class, reasonWords[listed.failed.reason]);
      }
      const id = backupIdSchema.parse(header.backup);
      backups.push({ id, header, end, ...tally.counts() });
    } catch {
      lost += 1;
    }
  }
  backups.sort((a, b) => (a.header.takenAt < b.header.takenAt ? -1 : 1));
  return { generation: archive.roster.generation, backups, lost };
}
