import type { DayReport, QueryOf, routes } from '@bright-cellar/contract';
import { and, count, desc, eq, gte, isNotNull, lt, sql } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf, PAGE_ROWS } from '../database/page.js';
import { backups, operations, tickets } from '../database/schema.js';
import { operationsWhere, resultOf } from '../engine/index.js';

const ESTIMATES = 200;

/** From its first moment to the next day's, in shop time. */
function boundsOf(day: string): { from: Date; to: Date } {
  const from = new Date(`${day}T00:00:00`);
  const to = new Date(from);
  to.setDate(to.getDate() + 1);
  return { from, to };
}

const startedBetween = ({ from, to }: { from: Date; to: Date }) =>
  and(gte(operations.startedAt, from), lt(operations.startedAt, to));

const HOUR_MS = 3_600_000;

/** What the bench did on a day, hour by hour, and how well the last estimates came out. */
export async function dayReport(db: Database, day: string): Promise<DayReport> {
  const bounds = boundsOf(day);
  const hours = Array.from({ length: 24 }, (_, hour) => ({ hour, runs: 0, failed: 0, bytes: 0 }));
  for (const { since, runs, failed, bytes } of await amountsByHour(db, bounds)) {
    // When clocks are put back an hour comes twice.
    const hour = hours[new Date(bounds.from.getTime() + since * HOUR_MS).getHours()];
    if (!hour) continue;
    hour.runs += runs;
    hour.failed += Number(failed);
    hour.bytes += Number(bytes);
  }
  return { hours, estimates: await estimateErrors(db) };
}

/** Of each hour since the day began. */
function amountsByHour(db: Database, bounds: { from: Date; to: Date }) {
  const from = sql.param(bounds.from, operations.startedAt);
  const since = sql<number>`timestampdiff(hour, ${from}, ${operations.startedAt})`.as('since');
  const result = (name: string) => sql`json_value(${operations.result}, ${`$.value.${name}`})`;
  // Of a further backup only what is new went over the cable.
  const carried = sql`coalesce(${result('newBytes')}, ${result('bytes')}, ${operations.doneBytes})`;
  return db
    .select({
      since,
      runs: count(),
      failed: sql<string>`sum(${operations.problem} is not null)`,
      bytes: sql<string>`sum(${carried})`,
    })
    .from(operations)
    .where(startedBetween(bounds))
    .groupBy(sql`since`);
}

const columns = { started: operations.startedAt, work: operations.kind } as const;

/** A page of what ran on a day. */
export async function dayRuns(
  db: Database,
  { day, sort, order, after: cursor }: QueryOf<typeof routes.dayRuns>,
) {
  const by = columns[sort];
  const ofDay = startedBetween(boundsOf(day));
  const found = await operationsWhere(
    db,
    and(ofDay, cursor === '' ? undefined : after(cursor, by, operations.id, order)),
    { order: orderOf(by, operations.id, order), atMost: PAGE_ROWS + 1 },
  );
  const rows = found.slice(0, PAGE_ROWS);
  const last = rows.at(-1);
  const value = last && (sort === 'started' ? new Date(last.startedAt) : last.kind);
  return {
    rows,
    next: found.length > PAGE_ROWS && last && value ? cursorOf(value, last.id) : null,
    total: await db.$count(operations, ofDay),
  };
}

async function estimateErrors(db: Database): Promise<DayReport['estimates']> {
  const rows = await db
    .select({
      estimate: operations.estimate,
      result: operations.result,
      takenAt: backups.takenAt,
      storedBytes: backups.storedBytes,
      ticketNumber: tickets.number,
    })
    .from(operations)
    .innerJoin(backups, eq(backups.operationId, operations.id))
    .leftJoin(tickets, eq(tickets.id, operations.ticketId))
    .where(
      and(
        eq(operations.state, 'done'),
        eq(operations.kind, 'backup'),
        isNotNull(operations.estimate),
      ),
    )
    .orderBy(desc(operations.endedAt))
    .limit(ESTIMATES);
  const within = (value: number, range: { low: number; high: number }) =>
    value >= range.low && value <= range.high;
  return rows
    .flatMap(({ estimate, result, takenAt, storedBytes, ticketNumber }) => {
      const workedMs = resultOf('backup', result)?.workedMs;
      if (!estimate || !workedMs) return [];
      return [
        {
          at: takenAt.toISOString(),
          ticketNumber,
          storedError: storedBytes / Math.max(1, estimate.stored.likely) - 1,
          timeError: workedMs / Math.max(1, estimate.ms.likely) - 1,
          storedInRange: within(storedBytes, estimate.stored),
          timeInRange: within(workedMs, estimate.ms),
        },
      ];
    })
    .reverse();
}
