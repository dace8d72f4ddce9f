import { activeStates, type ExtractSet, type OperationKind } from '@bright-cellar/core';
import { and, desc, eq, isNull, notInArray, sql, type SQL } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { backups, customers, devices, operations, schedules, tickets } from '../database/schema.js';

export type RegularRow = Awaited<ReturnType<typeof regularRows>>[number];

/** Every schedule of an open ticket, with when its work was last done and when it last failed. */
export async function regularRows(db: Database) {
  const rows = await db
    .select({ schedule: schedules, ticket: tickets, customer: customers, device: devices })
    .from(schedules)
    .innerJoin(tickets, eq(tickets.id, schedules.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .where(isNull(tickets.closedAt))
    .orderBy(customers.name, tickets.number, schedules.takes);
  return Promise.all(
    rows.map(async ({ schedule, ticket, customer, device }) => ({
      id: schedule.id,
      schedule: schedule.schedule,
      extract: schedule.extract,
      began: schedule.createdAt,
      createdBy: schedule.createdBy,
      ticketId: ticket.id,
      ticketNumber: ticket.number,
      customerName: customer.name,
      device,
      ...(schedule.takes === 'backup'
        ? await backupsSoFar(db, ticket.id, schedule.createdAt)
        : await extractsSoFar(db, ticket.id, schedule.takes, schedule.createdAt)),
    })),
  );
}

interface SoFar {
  lastDone: Date | null;
  /** What the device's contents were then. */
  lastRevision: string | null;
  /** Null when the last try came out well, or was before there was a schedule. */
  failedAt: Date | null;
}

async function backupsSoFar(db: Database, ticketId: string, began: Date): Promise<SoFar> {
  const taken = await db
    .select({
      takenAt: backups.takenAt,
      contentRevision: backups.contentRevision,
      scope: backups.scope,
    })
    .from(backups)
    .where(eq(backups.ticketId, ticketId))
    .orderBy(desc(backups.takenAt));
  // A quick set in between is no regular backup: that is of everything.
  const last = taken.find((b) => b.scope.everything);
  const [tried] = await endedOperations(db, ticketId, 'backup').limit(1);
  return {
    lastDone: last?.takenAt ?? null,
    lastRevision: last?.contentRevision ?? null,
    failedAt: failureSince(began, tried),
  };
}

async function extractsSoFar(
  db: Database,
  ticketId: string,
  set: ExtractSet,
  began: Date,
): Promise<SoFar> {
  const ofSet = await endedOperations(
    db,
    ticketId,
    'extract',
    eq(sql`json_value(${operations.input}, '$.value.what.set')`, set),
  );
  const [tried] = ofSet;
  const done = ofSet.find((o) => o.state === 'done');
  return {
    lastDone: done?.endedAt ?? null,
    lastRevision: done?.revision ?? null,
    failedAt: failureSince(began, tried),
  };
}

const failureSince = (began: Date, tried?: { state: string; endedAt: Date | null }) =>
  tried?.endedAt && tried.state !== 'done' && tried.endedAt > began ? tried.endedAt : null;

/** The newest first. */
const endedOperations = (db: Database, ticketId: string, kind: OperationKind, which?: SQL) =>
  db
    .select({
      state: operations.state,
      endedAt: operations.endedAt,
      revision: sql<string | null>`json_value(${operations.input}, '$.value.revision')`,
    })
    .from(operations)
    .where(
      and(
        eq(operations.ticketId, ticketId),
        eq(operations.kind, kind),
        notInArray(operations.state, activeStates),
        which,
      ),
    )
    .orderBy(desc(operations.startedAt));
