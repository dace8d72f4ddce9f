import { activeStates, openMoveStates, type MoveState } from '@bright-cellar/core';
import type { MoveStep, PlannedNow } from '@bright-cellar/contract';
import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Database } from '../database/connect.js';
import { archiveRows, moveSteps, operations, racks } from '../database/schema.js';

export type StepRow = typeof moveSteps.$inferSelect;

/** The moves of a plan, in their order. */
export const stepsOf = (db: Database, operationId: string): Promise<StepRow[]> =>
  db
    .select()
    .from(moveSteps)
    .where(eq(moveSteps.operationId, operationId))
    .orderBy(asc(moveSteps.step));

export const isOpen = ({ state }: { state: MoveState }): boolean =>
  (openMoveStates as readonly MoveState[]).includes(state);

const fromRack = alias(racks, 'from_rack');
const toRack = alias(racks, 'to_rack');

/** The same, as screens show them. */
export async function listSteps(db: Database, operationId: string): Promise<MoveStep[]> {
  return db
    .select({
      step: moveSteps.step,
      archiveId: moveSteps.archiveId,
      deviceName: archiveRows.deviceName,
      customerName: archiveRows.customerName,
      ticketNumber: archiveRows.ticketNumber,
      from: fromRack.name,
      to: toRack.name,
      bytes: moveSteps.bytes,
      detour: moveSteps.detour,
      state: moveSteps.state,
      why: moveSteps.why,
    })
    .from(moveSteps)
    .innerJoin(fromRack, eq(fromRack.id, moveSteps.fromRackId))
    .innerJoin(toRack, eq(toRack.id, moveSteps.toRackId))
    .leftJoin(archiveRows, eq(archiveRows.archiveId, moveSteps.archiveId))
    .where(eq(moveSteps.operationId, operationId))
    .orderBy(asc(moveSteps.step));
}

/** Moves that are still to be made by a plan that is being carried out. */
export const plannedNow = (db: Database): Promise<PlannedNow[]> =>
  db
    .select({
      archiveId: moveSteps.archiveId,
      from: moveSteps.fromRackId,
      to: moveSteps.toRackId,
      bytes: moveSteps.bytes,
    })
    .from(moveSteps)
    .innerJoin(operations, eq(operations.id, moveSteps.operationId))
    .where(
      and(inArray(operations.state, activeStates), inArray(moveSteps.state, [...openMoveStates])),
    );

/** The plan that was carried out last, or is being; null where none was. */
export async function lastMove(db: Database): Promise<string | null> {
  const [row] = await db
    .select({ id: operations.id })
    .from(operations)
    .where(eq(operations.kind, 'move'))
    .orderBy(desc(operations.startedAt))
    .limit(1);
  return row?.id ?? null;
}
