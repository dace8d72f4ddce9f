import { healthOf, rackIdSchema, type RackHealth, type RackId } from '@bright-cellar/core';
import type { Look } from '@bright-cellar/contract';
import { and, desc, eq, sql } from 'drizzle-orm';
import { unionAll } from 'drizzle-orm/mysql-core';
import { nameOf } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import { archiveRows, copies, goneCopies, looks, technicians } from '../database/schema.js';

const SHOWN = 60;
/** How far back a rack’s health is judged by. */
const JUDGED = 60;

/** The last looks at what lies on a rack, the newest first, and what they say of the rack itself. */
export async function looksOn(
  db: Database,
  rackId: RackId,
): Promise<{ looks: Look[]; health: RackHealth }> {
  const [rows, readings] = await Promise.all([
    db
      .select({
        look: looks,
        archiveId: archiveRows.archiveId,
        deviceName: archiveRows.deviceName,
        customerName: archiveRows.customerName,
        by: nameOf(technicians),
      })
      .from(looks)
      .leftJoin(copies, eq(copies.id, looks.copyId))
      .leftJoin(goneCopies, eq(goneCopies.id, looks.copyId))
      .innerJoin(
        archiveRows,
        eq(archiveRows.archiveId, sql`coalesce(${copies.archiveId}, ${goneCopies.archiveId})`),
      )
      .leftJoin(technicians, eq(technicians.id, looks.by))
      .where(eq(looks.rackId, rackId))
      .orderBy(desc(looks.at))
      .limit(SHOWN),
    readingsOn(db, rackId),
  ]);
  return {
    looks: rows.map(({ look, ...row }) => ({
      ...{ id: look.id, level: look.level, outcome: look.outcome, what: look.what },
      ...{ at: look.at.toISOString(), readBytes: look.readBytes, durationMs: look.durationMs },
      ...row,
    })),
    health: healthOf(readings),
  };
}

/** What the last looks without a password read, the newest first. With the password more is done than reading: only like is compared with like. */
const readingsOn = (db: Database, rackId: RackId) =>
  db
    .select({
      ...{ rackId: looks.rackId, at: looks.at },
      outcome: looks.outcome,
      readBytes: looks.readBytes,
      durationMs: looks.durationMs,
    })
    .from(looks)
    .where(and(eq(looks.rackId, rackId), eq(looks.level, 'bytes')))
    .orderBy(desc(looks.at))
    .limit(JUDGED);

/** What the ledgers of some racks say is wrong with them, by their ids: those of which they say nothing are not in it. Asked at once. */
export async function ailingOf(
  db: Database,
  racks: readonly RackId[],
): Promise<ReadonlyMap<string, string>> {
  const [first, second, ...others] = racks.map((id) => readingsOn(db, id));
  if (!first) return new Map();
  const readings = await (second ? unionAll(first, second, ...others) : first);
  // What was put together may come in any order.
  const newestFirst = readings.toSorted((a, b) => b.at.getTime() - a.at.getTime());
  return new Map(
    racks.flatMap((id) => {
      const { sentence } = healthOf(newestFirst.filter(({ rackId }) => rackId === id));
      return sentence === null ? [] : [[id, sentence] as const];
    }),
  );
}

/** Those of some racks that are here and ail, by their ids. */
export async function ailingAmong(
  db: Database,
  racks: readonly { id: string; present: boolean }[],
): Promise<Set<string>> {
  const here = racks.filter(({ present }) => present).map(({ id }) => rackIdSchema.parse(id));
  return new Set((await ailingOf(db, here)).keys());
}
