import { archiveLock, Failure, type ArchiveId, type BackupId } from '@bright-cellar/core';
import {
  archiveForWork,
  backupsOf,
  copyToChange,
  mustOpen,
  weighPruningOrder,
  workOn,
} from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import type { Context } from '../../shop.js';
import type { Start } from '../start.js';

/** @throws Failure `not-found`, `input-not-valid` where nothing goes, or something that is not there is to stay */
async function judged(context: Context, archiveId: ArchiveId, keep: readonly BackupId[]) {
  const row = await archiveForWork(context.db, archiveId);
  const copy = await copyToChange(context.db, archiveId);
  const all = (await backupsOf(context.db, [archiveId])).map(({ id }) => id as BackupId);
  const gone = all.filter((id) => !keep.includes(id));
  if (gone.length === 0 || keep.some((id) => !all.includes(id))) {
    throw new Failure('input-not-valid', {
      what: gone.length === 0 ? 'Every backup is to stay.' : 'One of them is not there any more.',
      safe: 'Nothing was changed.',
      next: 'Look at its backups again, and choose which of them go.',
    });
  }
  return { row, copy, gone };
}

export const startPrune: Start<'prune'> = async (context, { id: archiveId }, body) => {
  const { row, copy, gone } = await judged(context, archiveId, body.keep);
  await mustOpen(context, copy, body.password, row.ticket.id);
  return startOperation(
    context,
    {
      kind: 'prune',
      locks: [archiveLock(archiveId, 'exclusive')],
      ...workOn(row),
      what: `Pruning started: ${gone.length} backups go, ${body.keep.length} stay.`,
      input: { copyId: copy.id, rackName: copy.rackName, keep: body.keep, gone },
    },
    { password: body.password },
  );
};

/** What it would free. @throws Failure `wrong-password` */
export async function weighPrune(
  context: Context,
  archiveId: ArchiveId,
  { keep, password }: { keep: readonly BackupId[]; password: string },
): Promise<{ freedBytes: number }> {
  const { row, copy } = await judged(context, archiveId, keep);
  await mustOpen(context, copy, password, row.ticket.id);
  const { rackId, folder } = copy;
  return context.orders.ask(weighPruningOrder, { rackId, folder, password, keep: [...keep] });
}
