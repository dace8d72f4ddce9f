import type { DueRow, Keeping } from '@bright-cellar/contract';
import { Failure, type ArchiveId, type KeepingKind } from '@bright-cellar/core';
import { and, asc, count, desc, eq, inArray, isNotNull, isNull, lte, type SQL } from 'drizzle-orm';
import { nameOf } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import {
  archiveRows,
  archives,
  customers,
  keepings,
  technicians,
  tickets,
} from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';

const SHOWN = 200;

/** Of an archive that was destroyed. */
const gone: Keeping = { dueAt: null, untilTold: false, hold: null, longer: null };

/** How long an archive is kept, and what was said of it. */
export async function keepingOf(db: Database, id: ArchiveId): Promise<Keeping> {
  const [row] = await db.select().from(archiveRows).where(eq(archiveRows.archiveId, id));
  if (!row) return gone;
  const words = await db
    .select({ keeping: keepings, by: nameOf(technicians) })
    .from(keepings)
    .leftJoin(technicians, eq(technicians.id, keepings.by))
    .where(and(eq(keepings.archiveId, id), isNull(keepings.endedAt)))
    .orderBy(desc(keepings.id));
  const hold = words.find(({ keeping }) => keeping.kind === 'hold');
  const longer = words.find(({ keeping }) => keeping.kind !== 'hold');
  return {
    dueAt: row.dueAt?.toISOString() ?? null,
    untilTold: longer?.keeping.kind === 'until-told',
    hold: hold
      ? { reason: hold.keeping.reason, by: hold.by, at: hold.keeping.at.toISOString() }
      : null,
    longer: longer
      ? {
          reason: longer.keeping.reason,
          by: longer.by,
          until: longer.keeping.until?.toISOString() ?? null,
        }
      : null,
  };
}

/** @param until a day of the calendar, to whose end it is kept; null: until somebody is told */
export async function keepLonger(
  context: Context,
  id: ArchiveId,
  { until, reason }: { until: string | null; reason: string },
): Promise<Keeping> {
  const day = until === null ? null : new Date(`${until}T23:59:59.000Z`);
  if (day && day <= context.clock.now()) {
    throw new Failure('input-not-valid', {
      what: 'That day is over.',
      next: 'Choose a day that is to come.',
    });
  }
  const kind = day ? 'until' : 'until-told';
  await say(context, id, { kind, until: day, reason }, 'longer');
  return keepingOf(context.db, id);
}

export async function hold(context: Context, id: ArchiveId, reason: string): Promise<Keeping> {
  await say(context, id, { kind: 'hold', until: null, reason }, 'hold');
  return keepingOf(context.db, id);
}

/** @throws Failure `not-found` where nobody holds it */
export async function liftHold(context: Context, id: ArchiveId): Promise<Keeping> {
  await unitOfWork(context, async (unit) => {
    const [lifted] = await unit.tx
      .update(keepings)
      .set({ endedAt: unit.now })
      .where(and(eq(keepings.archiveId, id), eq(keepings.kind, 'hold'), isNull(keepings.endedAt)));
    if (lifted.affectedRows === 0) throw new Failure('not-found', { what: 'Nobody holds it.' });
    unit.changed('archive', id);
    unit.note({
      action: 'hold-lifted',
      ticketId: await ticketOf(unit.tx, id),
      what: 'The hold on the archive was lifted.',
    });
  });
  return keepingOf(context.db, id);
}

const kindsOf: Record<'longer' | 'hold', readonly KeepingKind[]> = {
  longer: ['until', 'until-told'],
  hold: ['hold'],
};

/** A later word of the same sort takes the place of an earlier one. */
async function say(
  context: Context,
  archiveId: ArchiveId,
  word: { kind: KeepingKind; until: Date | null; reason: string },
  sort: 'longer' | 'hold',
): Promise<void> {
  await unitOfWork(context, async (unit) => {
    const { tx, now } = unit;
    const ticketId = await ticketOf(tx, archiveId);
    await tx
      .update(keepings)
      .set({ endedAt: now })
      .where(
        and(
          eq(keepings.archiveId, archiveId),
          inArray(keepings.kind, [...kindsOf[sort]]),
          isNull(keepings.endedAt),
        ),
      );
    await tx
      .insert(keepings)
      .values({ ...word, archiveId, by: context.actor.technicianId, at: now });
    unit.changed('archive', archiveId);
    unit.note({
      ticketId,
      action: sort === 'hold' ? 'held' : 'kept-longer',
      what:
        sort === 'hold'
          ? `The archive is held: ${word.reason}`
          : `The archive is kept ${word.until ? `until ${word.until.toISOString().slice(0, 10)}` : 'until somebody is told'}: ${word.reason}`,
    });
  });
}

/** @throws Failure `not-found` */
async function ticketOf(db: Pick<Database, 'select'>, id: ArchiveId): Promise<string> {
  const [row] = await db
    .select({ ticketId: archives.ticketId })
    .from(archives)
    .where(and(eq(archives.id, id), isNull(archives.disposedAt)));
  if (!row) throw new Failure('not-found');
  return row.ticketId;
}

/** What is due, the longest first, with whom to ask; and what is held. */
export async function listDue(
  db: Database,
  now: Date,
): Promise<{ due: DueRow[]; dueTotal: number; held: DueRow[] }> {
  const [due, [total], held] = await Promise.all([
    firstDue(db, now, SHOWN),
    db.select({ count: count() }).from(archiveRows).where(isDue(now)),
    rowsWhere(db, eq(archiveRows.held, true), SHOWN),
  ]);
  return { due, dueTotal: total?.count ?? 0, held: held.map(dueRow) };
}

const isDue = (now: Date) => and(isNotNull(archiveRows.dueAt), lte(archiveRows.dueAt, now));

/** Archives that are kept no longer by what was agreed, those that are due longest first. */
export const firstDue = async (db: Database, now: Date, atMost: number): Promise<DueRow[]> =>
  (await rowsWhere(db, isDue(now), atMost)).map(dueRow);

const rowsWhere = (db: Database, where: SQL | undefined, atMost: number) =>
  db
    .select({ row: archiveRows, phone: customers.phone })
    .from(archiveRows)
    .innerJoin(archives, eq(archives.id, archiveRows.archiveId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .where(where)
    .orderBy(asc(archiveRows.dueAt), asc(archiveRows.archiveId))
    .limit(atMost);
const dueRow = ({
  row,
  phone,
}: {
  row: typeof archiveRows.$inferSelect;
  phone: string;
}): DueRow => ({
  ...{ archiveId: row.archiveId, customerName: row.customerName, phone },
  ...{ deviceName: row.deviceName, ticketNumber: row.ticketNumber, held: row.held },
  ...{ storedBytes: row.storedBytes, rackName: row.rackName },
  takenAt: row.takenAt.toISOString(),
  dueAt: row.dueAt?.toISOString() ?? null,
});
