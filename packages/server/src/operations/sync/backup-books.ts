import { randomUUID } from 'node:crypto';
import { syncedKinds } from '@bright-cellar/core';
import { listOf } from '@bright-cellar/core/crossing';
import type { Records } from '@bright-cellar/core/formats';
import { newBookFile } from '@bright-cellar/core/merge';
import type { RecordOf } from './writing.js';
import { heldFiles, type FilesPartner } from '../../partners/index.js';

/** What is read of a backup, as far as it is kept in step. */
interface Read {
  /** Ends when all of it was read. */
  reading: Promise<void>;
  recordsOf(kind: Records['kind']): Records[];
}

export type ReadLookIn = <T>(
  asked: { id: string; technicianId: string },
  ask: (read: Read) => Promise<T>,
) => Promise<T>;

/** What a backup that somebody looks into holds, as files of the customer's would. */
export async function filesOfBackup(looked: Read): Promise<FilesPartner> {
  await looked.reading;
  const files = heldFiles();
  for (const kind of syncedKinds) {
    for (const records of looked.recordsOf(kind)) {
      const all = listOf(records) as RecordOf[];
      const name = randomUUID();
      if (all.length > 0)
        await files.create({ id: kind, name: kind, kind }, name, newBookFile(kind, all, name));
    }
  }
  return files;
}
