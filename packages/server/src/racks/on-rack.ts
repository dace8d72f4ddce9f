import type { Elevation, QueryOf, RackCopy, routes } from '@bright-cellar/contract';
import type { ArchiveId, RackId } from '@bright-cellar/core';
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf, PAGE_ROWS } from '../database/page.js';
import { archiveRows, copies, COPIES_INDEX, racks } from '../database/schema.js';
import { roomOverTime } from './days.js';
import { ailingOf } from './looks.js';

/** A rack is drawn of so many archives one by one; what is smaller is drawn together. */
const COURSES = 48;

/** What every rack in use is drawn of. */
export async function allElevations(db: Database, now: Date): Promise<Elevation[]> {
  const rows = await db.select().from(racks).where(isNull(racks.retiredAt));
  return Promise.all(rows.map((row) => elevationOf(db, row, now)));
}

/** What one rack is drawn of. */
export async function elevationOf(
  db: Database,
  rack: typeof racks.$inferSelect,
  now: Date,
): Promise<Elevation> {
  const [courses, { full }, ailing] = await Promise.all([
    db
      .select({
        archiveId: copies.archiveId,
        storedBytes: copies.storedBytes,
        state: copies.state,
        deviceName: archiveRows.deviceName,
        customerName: archiveRows.customerName,
      })
      .from(copies)
      .innerJoin(archiveRows, eq(archiveRows.archiveId, copies.archiveId))
      .where(eq(copies.rackId, rack.id))
      .orderBy(desc(copies.storedBytes))
      .limit(COURSES),
    roomOverTime(db, rack, now),
    ailingOf(db, [rack.id]),
  ]);
  const drawn = courses.reduce((sum, course) => sum + course.storedBytes, 0);
  return {
    rackId: rack.id,
    courses,
    others: {
      archives: Math.max(0, rack.archives - courses.length),
      storedBytes: Math.max(0, rack.storedBytes - drawn),
    },
    full,
    ailing: ailing.get(rack.id) ?? null,
  };
}

/** A page of what lies on a rack, by its size. */
export async function copiesOn(
  db: Database,
  rackId: RackId,
  { order, after: cursor }: QueryOf<typeof routes.rackCopies>,
): Promise<{ rows: RackCopy[]; next: string | null; total: number }> {
  const by = copies.storedBytes;
  const beyond = cursor === '' ? undefined : after(cursor, by, copies.id, order);
  const [rack, found] = await Promise.all([
    db.select({ archives: racks.archives }).from(racks).where(eq(racks.id, rackId)),
    // Read from its index, in its very order: the rest is looked up for these alone.
    db
      .select()
      .from(copies, { forceIndex: COPIES_INDEX })
      .where(and(eq(copies.rackId, rackId), beyond))
      .orderBy(...orderOf(by, copies.id, order))
      .limit(PAGE_ROWS + 1),
  ]);
  const page = found.slice(0, PAGE_ROWS);
  const known = await factsOf(
    db,
    page.map(({ archiveId }) => archiveId),
  );
  const last = page.at(-1);
  return {
    rows: page.flatMap((copy) => {
      const facts = known.get(copy.archiveId);
      if (!facts) return [];
      return {
        ...facts.row,
        archiveId: copy.archiveId,
        storedBytes: copy.storedBytes,
        folder: copy.folder,
        state: copy.state,
        checkedAt: copy.checkedAt?.toISOString() ?? null,
        isNewest: copy.generation === Math.max(...facts.generations),
        others: facts.generations.length - 1,
      };
    }),
    next: found.length > PAGE_ROWS && last ? cursorOf(last.storedBytes, last.id) : null,
    total: rack[0]?.archives ?? 0,
  };
}

/** What is shown of some archives, and the generation of each of their copies. */
async function factsOf(db: Database, ids: readonly ArchiveId[]) {
  if (ids.length === 0) return new Map<string, never>();
  const [rows, all] = await Promise.all([
    db
      .select({
        archiveId: archiveRows.archiveId,
        ticketNumber: archiveRows.ticketNumber,
        customerName: archiveRows.customerName,
        deviceName: archiveRows.deviceName,
        takenAt: archiveRows.takenAt,
      })
      .from(archiveRows)
      .where(inArray(archiveRows.archiveId, [...ids])),
    db
      .select({ archiveId: copies.archiveId, generation: copies.generation })
      .from(copies)
      .where(inArray(copies.archiveId, [...ids])),
  ]);
  return new Map(
    rows.map(({ takenAt, ...row }) => [
      String(row.archiveId),
      {
        row: { ...row, takenAt: takenAt.toISOString() },
        generations: all
          .filter(({ archiveId }) => archiveId === row.archiveId)
          .map(({ generation }) => generation),
      },
    ]),
  );
}
