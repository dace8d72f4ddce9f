import { healthOf, rackIdSchema, type RackHealth, type RackId } from '@bright-cellar/core';
import type { Look } from '@bright-cellar/contract';
import { and, desc, eq, sql } from 'drizzle-orm';
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
      outcome: looks.outcome,
      readBytes: looks.readBytes,
      durationMs: looks.durationMs,
    })
    .from(looks)
    .where(and(eq(looks.rackId, rackId), eq(looks.level, 'bytes')))
    .orderBy(desc(looks.at))
    .limit(JUDGED);

/** What a rack’s own ledger says is wrong with it; null where nothing is. */
export const ailingOf = async (db: Database, rackId: RackId): Promise<string | null> =>
  healthOf(await readingsOn(db, rackId)).sentence;

/** Those of some racks that are here and ail, by their ids. */
export async function ailingAmong(
  db: Database,
  racks: readonly { id: string; present: boolean }[],
): Promise<Set<string>> {
  const here = racks.filter(({ present }) => present).map(({ id }) => id);
  const found = await Promise.all(
    here.map(async (id) => [id, await ailingOf(db, rackIdSchema.parse(id))] as const),
  );
  return new Set(found.flatMap(([id, ailing]) => (ailing === null ? [] : [id])));
}
