import type { DayReport } from '@bright-cellar/contract';
import { and, desc, eq, gte, isNotNull, lt } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { backups, operations, tickets } from '../database/schema.js';
import { operationsWhere, resultOf } from '../engine/index.js';

const ESTIMATES = 200;

/** What the bench did on a day (shop time), and how well the last estimates came out. */
export async function dayReport(db: Database, day: string): Promise<DayReport> {
  const from = new Date(`${day}T00:00:00`);
  const to = new Date(from);
  to.setDate(to.getDate() + 1);
  const runs = await operationsWhere(
    db,
    and(gte(operations.startedAt, from), lt(operations.startedAt, to)),
  );
  const hours = Array.from({ length: 24 }, (_, hour) => {
    const ofHour = runs.filter((run) => new Date(run.startedAt).getHours() === hour);
    return {
      hour,
      runs: ofHour.length,
      failed: ofHour.filter((run) => run.problem !== null).length,
      bytes: ofHour.reduce((sum, { result, doneBytes }) => {
        // Of a further backup only what is new went over the cable.
        const carried = result && 'newBytes' in result ? result.newBytes : result?.bytes;
        return sum + (carried ?? doneBytes);
      }, 0),
    };
  });
  return { hours, runs, estimates: await estimateErrors(db) };
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
