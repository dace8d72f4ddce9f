import { randomUUID } from 'node:crypto';
import { unfinishedRun } from '@bright-cellar/archive';
import { afterOperationEvent, Failure, problemOf, type OperationKind } from '@bright-cellar/core';
import type { Estimate, Operation } from '@bright-cellar/contract';
import { and, desc, eq, isNull, type SQL } from 'drizzle-orm';
import { isDuplicate, type Database, type Transaction } from '../database/connect.js';
import { operationLocks, operations, technicians, tickets } from '../database/schema.js';
import type { OperationInput } from '../work/inputs.js';
import type { OrderClient } from '../work/order-client.js';
import { noteAudit, type AuditAction } from './audit.js';

/** Whatever meets a condition, the newest first. */
export async function operationsWhere(db: Database, where: SQL | undefined): Promise<Operation[]> {
  const rows = await db
    .select({ operation: operations, ticketNumber: tickets.number, startedBy: technicians.name })
    .from(operations)
    .innerJoin(technicians, eq(technicians.id, operations.startedBy))
    .leftJoin(tickets, eq(tickets.id, operations.ticketId))
    .where(where)
    .orderBy(desc(operations.startedAt));
  return Promise.all(rows.map((row) => described(row)));
}

async function described({
  operation,
  ticketNumber,
  startedBy,
}: {
  operation: typeof operations.$inferSelect;
  ticketNumber: string | null;
  startedBy: string;
}): Promise<Operation> {
  return {
    id: operation.id,
    kind: operation.kind,
    state: operation.state,
    ticketNumber,
    deviceId: operation.deviceId,
    deviceName: operation.deviceName,
    archiveId: operation.archiveId,
    backupId: operation.backupId,
    phase: operation.phase,
    doneBytes: operation.doneBytes,
    totalBytes: operation.totalBytes,
    doneItems: operation.doneItems,
    totalItems: operation.totalItems,
    rate: operation.rate,
    leftLowMs: operation.leftLowMs,
    leftHighMs: operation.leftHighMs,
    needs: operation.needs,
    stopping: operation.stopping,
    paused: operation.paused,
    estimate: operation.estimate,
    retryable:
      operation.input.kind === 'backup' &&
      operation.input.recovered === undefined &&
      operation.state === 'done'
        ? (operation.result?.failed ?? []).reduce((sum, f) => sum + f.count, 0)
        : 0,
    startedAt: operation.startedAt.toISOString(),
    endedAt: operation.endedAt?.toISOString() ?? null,
    startedBy,
    result: operation.result,
    problem: operation.problem,
    keptBytes: await keptBytesOf(operation),
  };
}

/** Bytes on the rack from which a backup that ended badly can go on; null when it cannot. */
async function keptBytesOf({
  state,
  input,
}: typeof operations.$inferSelect): Promise<number | null> {
  if (input.kind !== 'backup' || state === 'running' || state === 'done') return null;
  const unfinished = await unfinishedRun(input.folder, input.backup).catch(() => null);
  return unfinished?.storedBytes ?? null;
}

/** @throws Failure `not-found` */
export async function operationById(db: Database, id: string): Promise<Operation> {
  const [found] = await operationsWhere(db, eq(operations.id, id));
  if (!found) throw new Failure('not-found');
  return found;
}

export async function runningOperations(db: Database): Promise<Operation[]> {
  return operationsWhere(db, eq(operations.state, 'running'));
}

export interface NewOperation {
  kind: OperationKind;
  /** All that it works on, and nothing else may meanwhile. */
  locks: Lock[];
  phase: string;
  ticketId: string | null;
  deviceId: string | null;
  deviceName: string | null;
  archiveId: string | null;
  backupId: string | null;
  estimate?: Estimate | null;
  input: OperationInput;
  startedBy: string;
  action: AuditAction;
  /** For the audit. */
  what: string;
}

/** What an operation works on. */
export type Lock = `device:${string}` | `archive:${string}`;
export const deviceLock = (serial: string): Lock => `device:${serial}`;
export const archiveLock = (id: string): Lock => `archive:${id}`;

export async function isHeld(db: Database, lock: Lock): Promise<boolean> {
  const [held] = await db
    .select({ id: operationLocks.operationId })
    .from(operationLocks)
    .where(eq(operationLocks.resource, lock));
  return held !== undefined;
}

/** Takes all of them, or none. @throws Failure `device-busy`, `archive-in-use` */
async function takeLocks(tx: Transaction, operationId: string, locks: Lock[]): Promise<void> {
  // Always in one order, so that two that want the same cannot wait for each other.
  for (const resource of [...locks].sort()) {
    try {
      await tx.insert(operationLocks).values({ operationId, resource });
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      const isDevice = resource.startsWith('device:');
      throw new Failure(isDevice ? 'device-busy' : 'archive-in-use', {}, { cause: error });
    }
  }
}

/**
 * Writes an operation's row with its locks and gives the order to do it.
 * @throws Failure `device-busy`, `archive-in-use` when something else works on the same thing.
 */
export async function startOperation(
  db: Database,
  orders: OrderClient,
  { action, what, locks, ...row }: NewOperation,
  password: string,
  packagePassword = '',
): Promise<Operation> {
  const id = randomUUID();
  await db.transaction(async (tx) => {
    await tx.insert(operations).values({ id, state: 'running', startedAt: new Date(), ...row });
    await takeLocks(tx, id, locks);
    await noteAudit(tx, { technicianId: row.startedBy, ticketId: row.ticketId, action, what });
  });
  return giveOrder(db, orders, id, password, packagePassword);
}

async function giveOrder(
  db: Database,
  orders: OrderClient,
  id: string,
  password: string,
  packagePassword: string,
): Promise<Operation> {
  try {
    await orders.start(id, password, packagePassword);
  } catch (error) {
    await db.transaction(async (tx) => {
      const [ended] = await tx
        .update(operations)
        .set({ state: 'failed', endedAt: new Date(), problem: problemOf(error) })
        // Unless the order arrived all the same: then the work ends it.
        .where(
          and(
            eq(operations.id, id),
            eq(operations.state, 'running'),
            isNull(operations.leaseOwner),
          ),
        );
      if (ended.affectedRows === 1)
        await tx.delete(operationLocks).where(eq(operationLocks.operationId, id));
    });
    throw error;
  }
  return operationById(db, id);
}

/** @throws Failure `not-found` */
export async function operationRow(db: Database, id: string) {
  const [row] = await db.select().from(operations).where(eq(operations.id, id));
  if (!row) throw new Failure('not-found');
  return row;
}

/**
 * Lets an operation that ended badly run again, on what it left behind.
 * @throws Failure `device-busy` when something else works on the same thing, `not-found` when it cannot go on.
 */
export async function continueOperation(
  db: Database,
  orders: OrderClient,
  id: string,
  again: { locks: Lock[]; deviceId: string | null; technicianId: string; password: string },
): Promise<Operation> {
  const row = await operationRow(db, id);
  const state = afterOperationEvent(row.state, 'continue');
  if (!state) throw new Failure('not-found', { what: 'That work cannot go on.' });
  await db.transaction(async (tx) => {
    const [updated] = await tx
      .update(operations)
      .set({
        state,
        input: row.input.kind === 'backup' ? { ...row.input, continued: true } : row.input,
        deviceId: again.deviceId,
        phase: 'listing',
        ...{ doneBytes: 0, totalBytes: 0, doneItems: 0, totalItems: 0, rate: 0 },
        ...{ leftLowMs: null, leftHighMs: null, needs: null, stopping: false, paused: false },
        startedAt: new Date(),
        ...{ endedAt: null, leaseOwner: null, leaseUntil: null, problem: null },
      })
      .where(and(eq(operations.id, id), eq(operations.state, row.state)));
    if (updated.affectedRows !== 1) throw new Failure('device-busy');
    await takeLocks(tx, id, again.locks);
    await noteAudit(tx, {
      technicianId: again.technicianId,
      ticketId: row.ticketId,
      action: 'backup-continued',
      what: 'Backup goes on from what is on the rack.',
    });
  });
  return giveOrder(db, orders, id, again.password, '');
}

/** Asks for a stop. The work ends where that is safe. */
export async function stopOperation(
  db: Database,
  orders: OrderClient,
  id: string,
  technicianId: string,
): Promise<Operation> {
  const operation = await operationById(db, id);
  if (operation.state !== 'running') return operation;
  await db.update(operations).set({ stopping: true }).where(eq(operations.id, id));
  const { ticketId } = await operationRow(db, id);
  await noteAudit(db, {
    technicianId,
    ticketId,
    action: 'stop-asked',
    what: `Asked to stop: ${operation.kind}.`,
  });
  await orders.stop(id);
  return operationById(db, id);
}

/** Lets a running backup wait, or go on. @throws Failure `not-found` when it cannot be paused. */
export async function pauseOperation(
  db: Database,
  orders: OrderClient,
  id: string,
  paused: boolean,
  technicianId: string,
): Promise<Operation> {
  const operation = await operationById(db, id);
  if (operation.kind !== 'backup' || operation.state !== 'running') {
    throw new Failure('not-found', { what: 'That work cannot be paused.' });
  }
  await db.update(operations).set({ paused }).where(eq(operations.id, id));
  const { ticketId } = await operationRow(db, id);
  await noteAudit(db, {
    technicianId,
    ticketId,
    action: 'pause-asked',
    what: paused ? 'The backup was paused.' : 'The backup goes on.',
  });
  await orders.pause(id, paused);
  return operationById(db, id);
}
