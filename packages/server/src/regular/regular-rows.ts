import { activeStates } from '@bright-cellar/core';
import { and, desc, eq, inArray, isNull, notInArray, sql } from 'drizzle-orm';
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
  const ids = [...new Set(rows.map(({ ticket }) => ticket.id))];
  const taken = await lastBackups(db, ids);
  const tried = await lastTries(db, ids);
  return rows.map(({ schedule, ticket, customer, device }) => {
    const { takes } = schedule;
    const of = (all: readonly Try[]) =>
      all.find((t) => t.ticketId === ticket.id && t.takes === takes);
    const backup = takes === 'backup' ? taken.get(ticket.id) : undefined;
    const done = of(tried.done);
    return {
      id: schedule.id,
      schedule: schedule.schedule,
      extract: schedule.extract,
      sync: schedule.sync,
      syncWith: schedule.syncWith,
      began: schedule.createdAt,
      createdBy: schedule.createdBy,
      ticketId: ticket.id,
      ticketNumber: ticket.number,
      customer,
      device,
      lastDone: (takes === 'backup' ? backup?.takenAt : done?.endedAt) ?? null,
      /** What the device's contents were then. */
      lastRevision: (takes === 'backup' ? backup?.contentRevision : done?.revision) ?? null,
      /** Null when the last try came out well, or was before there was a schedule. */
      failedAt: failureSince(schedule.createdAt, of(tried.last)),
    };
  });
}

/** When everything was last taken, by ticket. A quick set in between is no regular backup: that is of everything. */
async function lastBackups(db: Database, ticketIds: readonly string[]) {
  if (ticketIds.length === 0) return new Map<string, never>();
  const numbered = db
    .select({
      ticketId: backups.ticketId,
      takenAt: backups.takenAt,
      contentRevision: backups.contentRevision,
      place:
        sql<number>`row_number() over (partition by ${backups.ticketId} order by ${backups.takenAt} desc)`.as(
          'place',
        ),
    })
    .from(backups)
    .where(
      and(
        inArray(backups.ticketId, [...ticketIds]),
        eq(sql`json_value(${backups.scope}, '$.everything')`, '1'),
      ),
    )
    .as('numbered');
  const rows = await db.select().from(numbered).where(eq(numbered.place, 1));
  return new Map(rows.map((row) => [row.ticketId, row]));
}

interface Try {
  ticketId: string | null;
  /** `backup`, `sync`, or the set that was taken out. */
  takes: string;
  state: string;
  endedAt: Date | null;
  revision: string | null;
}

/** The last time that each was tried, and that it came out well. */
async function lastTries(
  db: Database,
  ticketIds: readonly string[],
): Promise<{ last: Try[]; done: Try[] }> {
  if (ticketIds.length === 0) return { last: [], done: [] };
  const takes = sql<string>`if(${operations.kind} in ('backup', 'sync'), ${operations.kind}, coalesce(json_value(${operations.input}, '$.value.what.set'), ''))`;
  const place = (isDone: boolean) =>
    sql<number>`row_number() over (partition by ${operations.ticketId}, ${takes}${isDone ? sql`, ${operations.state} = 'done'` : sql``} order by ${operations.startedAt} desc)`;
  const numbered = db
    .select({
      ticketId: operations.ticketId,
      takes: takes.as('takes'),
      state: operations.state,
      endedAt: operations.endedAt,
      revision: sql<string | null>`json_value(${operations.input}, '$.value.revision')`.as(
        'revision',
      ),
      place: place(false).as('place'),
      placeAlike: place(true).as('place_alike'),
    })
    .from(operations)
    .where(
      and(
        inArray(operations.ticketId, [...ticketIds]),
        inArray(operations.kind, ['backup', 'extract', 'sync']),
        // Looked at only, nothing is in step.
        sql`(${operations.kind} <> 'sync' or json_value(${operations.input}, '$.value.writes') = '1')`,
        notInArray(operations.state, activeStates),
      ),
    )
    .as('numbered');
  const rows = await db
    .select()
    .from(numbered)
    .where(
      sql`${numbered.place} = 1 or (${numbered.placeAlike} = 1 and ${numbered.state} = 'done')`,
    )
    .orderBy(desc(numbered.endedAt));
  return {
    last: rows.filter((row) => row.place === 1),
    done: rows.filter((row) => row.state === 'done'),
  };
}

const failureSince = (began: Date, tried?: Try) =>
  tried?.endedAt && tried.state !== 'done' && tried.endedAt > began ? tried.endedAt : null;
