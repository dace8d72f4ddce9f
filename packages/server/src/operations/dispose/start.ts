import { randomUUID } from 'node:crypto';
import { archiveLock, Failure, type ArchiveId } from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { and, eq, isNull } from 'drizzle-orm';
import { archiveForWork, workOn } from '../../archives/index.js';
import { keepings } from '../../database/schema.js';
import { startOperation } from '../../engine/index.js';
import { recordDecision } from '../../keep/index.js';
import type { Context } from '../../shop.js';
import type { Start } from '../start.js';

export const startDispose: Start<'dispose'> = async (context, { id: archiveId }, body) => {
  const row = await archiveForWork(context.db, archiveId);
  if (row.archive.disposedAt) {
    throw new Failure('not-found', { what: 'It is being destroyed, or was.' });
  }
  if (body.typedTicket.trim() !== row.ticket.number) {
    throw new Failure('input-not-valid', {
      what: 'That is not the number of this archive’s ticket.',
      safe: 'Nothing was destroyed.',
      next: 'Read it off the ticket or its label, and type it.',
    });
  }
  const [held] = await context.db
    .select({ reason: keepings.reason })
    .from(keepings)
    .where(
      and(eq(keepings.archiveId, archiveId), eq(keepings.kind, 'hold'), isNull(keepings.endedAt)),
    );
  if (held) {
    throw new Failure('archive-held', { what: `Somebody holds this archive: ${held.reason}` });
  }
  const disposalId = randomUUID();
  return begin(context, row, disposalId, 'Disposal decided', async (unit, operationId) => {
    await recordDecision(unit, {
      ...{ id: disposalId, archiveId, operationId, reason: body.reason },
      by: context.actor.technicianId,
    });
  });
};

/** Goes on with a disposal of which something was owed. */
export async function goOnDisposing(
  context: Context,
  disposal: { id: string; archiveId: ArchiveId },
): Promise<Operation> {
  const row = await archiveForWork(context.db, disposal.archiveId);
  return begin(context, row, disposal.id, 'Disposal goes on');
}

const begin = (
  context: Context,
  row: Awaited<ReturnType<typeof archiveForWork>>,
  disposalId: string,
  what: string,
  alongside?: NonNullable<Parameters<typeof startOperation<'dispose'>>[1]['alongside']>,
): Promise<Operation> =>
  startOperation<'dispose'>(
    context,
    {
      kind: 'dispose',
      // Nobody reads, copies or adds to what is destroyed.
      locks: [archiveLock(row.archive.id, 'exclusive')],
      ...workOn(row),
      what: `${what}: the keys first, then every copy.`,
      input: { disposalId },
      ...(alongside ? { alongside } : {}),
    },
    {},
  );
