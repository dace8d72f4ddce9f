import { activeStates, Failure } from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { desc, eq, inArray, type SQL } from 'drizzle-orm';
import { nameOf } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import { operations, technicians, tickets } from '../database/schema.js';
import { resultOf, rowOf, type AnyRow } from './rows.js';

/** What screens show of an operation: not what it was told to do, which can be long. */
const shown = {
  id: operations.id,
  kind: operations.kind,
  state: operations.state,
  ticketNumber: tickets.number,
  deviceId: operations.deviceId,
  deviceName: operations.deviceName,
  archiveId: operations.archiveId,
  backupId: operations.backupId,
  phase: operations.phase,
  doneBytes: operations.doneBytes,
  totalBytes: operations.totalBytes,
  doneItems: operations.doneItems,
  totalItems: operations.totalItems,
  rate: operations.rate,
  leftLowMs: operations.leftLowMs,
  leftHighMs: operations.leftHighMs,
  needs: operations.needs,
  estimate: operations.estimate,
  retryable: operations.retryable,
  startedAt: operations.startedAt,
  endedAt: operations.endedAt,
  startedBy: nameOf(technicians),
  result: operations.result,
  problem: operations.problem,
};

/** Whatever meets a condition, the newest first unless another order is asked for. */
export async function operationsWhere(
  db: Database,
  where: SQL | undefined,
  { order = [desc(operations.startedAt)], atMost = 1000 }: { order?: SQL[]; atMost?: number } = {},
): Promise<Operation[]> {
  const rows = await db
    .select(shown)
    .from(operations)
    .leftJoin(technicians, eq(technicians.id, operations.startedBy))
    .leftJoin(tickets, eq(tickets.id, operations.ticketId))
    .where(where)
    .orderBy(...order)
    .limit(atMost);
  return rows.map(
    ({ startedAt, endedAt, kind, result, ...row }) =>
      ({
        ...row,
        kind,
        result: resultOf(kind, result),
        startedAt: startedAt.toISOString(),
        endedAt: endedAt?.toISOString() ?? null,
      }) as Operation,
  );
}

/** @throws Failure `not-found` */
export async function operationById(db: Database, id: string): Promise<Operation> {
  const [found] = await operationsWhere(db, eq(operations.id, id));
  if (!found) throw new Failure('not-found');
  return found;
}

export const activeOperations = (db: Database): Promise<Operation[]> =>
  operationsWhere(db, inArray(operations.state, activeStates));

/** All that is kept of an operation. @throws Failure `not-found` */
export async function operationRow(db: Database, id: string): Promise<AnyRow> {
  const [row] = await db.select().from(operations).where(eq(operations.id, id));
  if (!row) throw new Failure('not-found');
  return rowOf(row);
}
