import { whenFull, type FullForecast, type RackId } from '@bright-cellar/core';
import type { RackDay } from '@bright-cellar/contract';
import { and, asc, eq, gte } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { rackDays, racks } from '../database/schema.js';

const DAY_MS = 86_400_000;
/** Two years back: further nobody looks, and the chart stays readable. */
const SHOWN_DAYS = 730;

const dayOf = (at: Date): number => Math.floor(at.getTime() / DAY_MS);
const isoOf = (day: number): string => new Date(day * DAY_MS).toISOString().slice(0, 10);

/** Keeps what room a rack has today; the last look of a day is the one that stays. */
export async function keepDay(
  db: Database,
  rack: { id: RackId; storedBytes: number },
  free: number,
  now: Date,
): Promise<void> {
  const { storedBytes } = rack;
  await db
    .insert(rackDays)
    .values({ rackId: rack.id, day: dayOf(now), free, storedBytes })
    .onDuplicateKeyUpdate({ set: { free, storedBytes } });
}

/** A rack's room day by day, the oldest first, and when it will be full as it goes now. */
export async function roomOverTime(
  db: Database,
  { id, reserve }: Pick<typeof racks.$inferSelect, 'id' | 'reserve'>,
  now: Date,
): Promise<{ days: RackDay[]; full: { early: string; late: string | null } | null }> {
  const rows = await db
    .select()
    .from(rackDays)
    .where(and(eq(rackDays.rackId, id), gte(rackDays.day, dayOf(now) - SHOWN_DAYS)))
    .orderBy(asc(rackDays.day));
  return {
    days: rows.map(({ day, free, storedBytes }) => ({ day: isoOf(day), free, storedBytes })),
    full: fullDays(whenFull(rows, reserve), rows.at(-1)?.day ?? 0),
  };
}

const fullDays = (found: FullForecast | null, from: number) =>
  found && {
    early: isoOf(from + found.early),
    late: found.late === null ? null : isoOf(from + found.late),
  };
