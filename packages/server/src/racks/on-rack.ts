import type { Elevation, QueryOf, RackCopy, routes } from '@bright-cellar/contract';
import type { RackId } from '@bright-cellar/core';
import { and, count, desc, eq, isNull, sql } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf, PAGE_ROWS } from '../database/page.js';
import { archiveRows, copies, racks } from '../database/schema.js';
import { roomOverTime } from './days.js';

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
  const [courses, { full }] = await Promise.all([
    db
      .select({
        archiveId: copies.archiveId,
        storedBytes: copies.storedBytes,
        state: copies.state,
      })
      .from(copies)
      .where(eq(copies.rackId, rack.id))
      .orderBy(desc(copies.storedBytes))
      .limit(COURSES),
    roomOverTime(db, rack, now),
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
  };
}

const columns = { stored: copies.storedBytes, taken: archiveRows.takenAt } as const;

/** A page of what lies on a rack. */
export async function copiesOn(
  db: Database,
  rackId: RackId,
  { sort, order, after: cursor }: QueryOf<typeof routes.rackCopies>,
): Promise<{ rows: RackCopy[]; next: string | null; total: number }> {
  const by = columns[sort];
  const here = eq(copies.rackId, rackId);
  const newest = sql<number>`(select max(c.generation) from ${copies} c where c.archive_id = ${copies.archiveId})`;
  const others = sql<number>`(select count(*) - 1 from ${copies} c where c.archive_id = ${copies.archiveId})`;
  const [found, [total]] = await Promise.all([
    db
      .select({ copy: copies, row: archiveRows, newest, others })
      .from(copies)
      .innerJoin(archiveRows, eq(archiveRows.archiveId, copies.archiveId))
      .where(and(here, cursor === '' ? undefined : after(cursor, by, copies.id, order)))
      .orderBy(...orderOf(by, copies.id, order))
      .limit(PAGE_ROWS + 1),
    db.select({ count: count() }).from(copies).where(here),
  ]);
  const rows = found.slice(0, PAGE_ROWS);
  const last = rows.at(-1);
  return {
    rows: rows.map(({ copy, row, ...one }) => ({
      archiveId: copy.archiveId,
      ticketNumber: row.ticketNumber,
      customerName: row.customerName,
      deviceName: row.deviceName,
      takenAt: row.takenAt.toISOString(),
      storedBytes: copy.storedBytes,
      folder: copy.folder,
      state: copy.state,
      checkedAt: copy.checkedAt?.toISOString() ?? null,
      isNewest: copy.generation === one.newest,
      others: one.others,
    })),
    next:
      found.length > PAGE_ROWS && last
        ? cursorOf(sort === 'stored' ? last.copy.storedBytes : last.row.takenAt, last.copy.id)
        : null,
    total: total?.count ?? 0,
  };
}
