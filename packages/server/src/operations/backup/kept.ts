import { unfinishedRun } from '@bright-cellar/archive';
import { isOver } from '@bright-cellar/core';
import type { Database } from '../../database/connect.js';
import type { RowOf } from '../../engine/index.js';
import { archiveAt } from '../../racks/index.js';

/** Bytes on the rack from which a backup that ended badly can go on, as the rack says now; null when it cannot. */
export async function keptOfBackup(
  db: Database,
  { state, input }: RowOf<'backup'>,
): Promise<number | null> {
  if (!isOver(state) || state === 'done') return null;
  const left = await archiveAt(db, input)
    .then((files) => unfinishedRun(files, input.backup))
    // Its rack is away, or cannot be read: it cannot go on now.
    .catch(() => null);
  return left?.storedBytes ?? null;
}
