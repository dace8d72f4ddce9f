import { randomUUID } from 'node:crypto';
import {
  afterOperationEvent,
  deadlineOf,
  definitionOf,
  Failure,
  isPausable,
  isStoppable,
  problemOf,
  statesThatTake,
  type AuditAction,
  type Estimate,
  type Lock,
  type OperationEvent,
  type OperationInput,
  type LinkDeviceId,
  type OperationKind,
  type OperationReferences,
} from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { and, eq, inArray } from 'drizzle-orm';
import { operations } from '../database/schema.js';
import { mustBeAllowed } from '../kernel/actor.js';
import { unitOfWork, type Unit } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { releaseLocks, takeLocks } from './locks.js';
import { tellOf } from './tell.js';
import { versioned } from './rows.js';
import { operationById, operationRow } from './views.js';

export type NewOperation<Kind extends OperationKind> = OperationReferences<Kind> & {
  kind: Kind;
  /** All that it uses, and how. */
  locks: Lock[];
  ticketId: string | null;
  ticketNumber: string | null;
  deviceName: string | null;
  estimate?: Estimate | null;
  input: OperationInput<Kind>;
  /** For the audit. */
  what: string;
  /** What else is written when its row is. */
  alongside?: (unit: Unit, operationId: string) => Promise<void>;
};

/** What work opens things with, and a folder outside the racks whose path may say whose it is: handed over once, in memory. */
export interface Passwords {
  password?: string;
  packagePassword?: string;
  fromFolder?: string;
}

/**
 * Writes an operation's row with its locks and gives the order to do it.
 * @throws Failure `device-busy`, `archive-in-use` when something else works on the same thing.
 */
export async function startOperation<Kind extends OperationKind>(
  context: Context,
  { what, locks, ticketNumber, kind, input, alongside, ...row }: NewOperation<Kind>,
  passwords: Passwords,
): Promise<Operation> {
  const id = randomUUID();
  await unitOfWork(context, async (unit) => {
    const { tx, now } = unit;
    await tx.insert(operations).values({
      ...row,
      id,
      kind,
      input: versioned(kind, input),
      phase: definitionOf(kind).firstPhase,
      startedBy: context.actor.technicianId,
      startedAt: now,
      state: 'ordered',
      deadline: deadlineOf('ordered', now),
    });
    await takeLocks(tx, id, locks);
    await alongside?.(unit, id);
    unit.note({ action: `${kind}-started`, what, ticketId: row.ticketId });
    unit.changed('operation', id);
    if (ticketNumber !== null) unit.changed('ticket', ticketNumber);
  });
  return giveOrder(context, id, passwords);
}

async function giveOrder(
  context: Context,
  id: string,
  { password = '', packagePassword = '', fromFolder = '' }: Passwords,
): Promise<Operation> {
  try {
    await context.orders.start(id, { password, packagePassword, fromFolder });
  } catch (error) {
    await unitOfWork(context, async (unit) => {
      const [ended] = await unit.tx
        .update(operations)
        .set({ state: 'failed', deadline: null, endedAt: unit.now, problem: problemOf(error) })
        // Unless the order arrived all the same: then the work ends it.
        .where(and(eq(operations.id, id), eq(operations.state, 'ordered')));
      if (ended.affectedRows !== 1) return;
      await releaseLocks(unit.tx, id);
      await tellOf(unit, id);
    });
    throw error;
  }
  return operationById(context.db, id);
}

/** Moves an operation by an event, if that has a meaning in its state. @returns whether it had. */
async function move(unit: Unit, id: string, event: OperationEvent): Promise<boolean> {
  const [row] = await unit.tx
    .select({ state: operations.state })
    .from(operations)
    .where(eq(operations.id, id))
    .for('update');
  const state = row && afterOperationEvent(row.state, event);
  if (!state) return false;
  // Whoever asks again and again must not put off the moment at which it is given up.
  if (state === row.state) return true;
  await unit.tx
    .update(operations)
    .set({ state, deadline: deadlineOf(state, unit.now) })
    .where(eq(operations.id, id));
  await tellOf(unit, id);
  return true;
}

/**
 * Lets an operation that ended badly run again, on what it left behind.
 * @throws Failure `device-busy`, `archive-in-use`; `not-found` when it cannot go on.
 */
export async function continueOperation<Kind extends OperationKind>(
  context: Context,
  id: string,
  again: {
    locks: Lock[];
    deviceId: LinkDeviceId | null;
    input: OperationInput<Kind>;
    action: AuditAction;
    what: string;
  },
  passwords: Passwords,
): Promise<Operation> {
  const row = await operationRow(context.db, id);
  const { continues, firstPhase, permission } = definitionOf(row.kind);
  mustBeAllowed(context.actor, permission);
  if (!continues) throw new Failure('not-found', { what: 'That work cannot go on.' });
  await unitOfWork(context, async (unit) => {
    const { tx, now } = unit;
    const [updated] = await tx
      .update(operations)
      .set({
        state: 'ordered',
        deadline: deadlineOf('ordered', now),
        input: versioned(row.kind, again.input),
        deviceId: again.deviceId,
        phase: firstPhase,
        ...{ doneBytes: 0, totalBytes: 0, doneItems: 0, totalItems: 0, rate: 0 },
        ...{ leftLowMs: null, leftHighMs: null, needs: null },
        startedAt: now,
        ...{ endedAt: null, leaseOwner: null, leaseUntil: null, problem: null },
      })
      .where(and(eq(operations.id, id), inArray(operations.state, statesThatTake('continue'))));
    if (updated.affectedRows !== 1) {
      throw new Failure('device-busy', { what: 'That work goes on already.' });
    }
    await takeLocks(tx, id, again.locks);
    unit.note({ action: again.action, what: again.what, ticketId: row.ticketId });
    await tellOf(unit, id);
  });
  return giveOrder(context, id, passwords);
}

/** Asks for a stop. The work ends where that is safe. */
export async function stopOperation(context: Context, id: string): Promise<Operation> {
  const { kind, ticketId, phase } = await operationRow(context.db, id);
  const { permission, name } = definitionOf(kind);
  mustBeAllowed(context.actor, permission);
  if (!isStoppable(kind, phase)) return operationById(context.db, id);
  const asked = await unitOfWork(context, async (unit) => {
    if (!(await move(unit, id, 'ask-stop'))) return false;
    unit.note({ ticketId, action: 'stop-asked', what: `Asked to stop: ${name.toLowerCase()}.` });
    return true;
  });
  if (asked) await context.orders.stop(id);
  return operationById(context.db, id);
}

/** Lets running work wait, or go on. @throws Failure `not-found` when it cannot be paused. */
export async function pauseOperation(
  context: Context,
  id: string,
  paused: boolean,
): Promise<Operation> {
  const { kind, phase, ticketId } = await operationRow(context.db, id);
  const { permission, name } = definitionOf(kind);
  mustBeAllowed(context.actor, permission);
  await unitOfWork(context, async (unit) => {
    const isMoved = isPausable(kind, phase) && (await move(unit, id, paused ? 'pause' : 'go-on'));
    if (!isMoved) throw new Failure('not-found', { what: 'That work cannot be paused now.' });
    unit.note({
      ticketId,
      action: 'pause-asked',
      what: paused ? `${name}: paused.` : `${name}: goes on.`,
    });
  });
  await context.orders.pause(id, paused);
  return operationById(context.db, id);
}
