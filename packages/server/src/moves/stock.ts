import {
  idSchema,
  operations as kinds,
  rackIdSchema,
  type ArchiveId,
  type RackId,
} from '@bright-cellar/core';
import { rateFrom, type Rate, type Stock } from '@bright-cellar/core/placement';
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import {
  archiveRows,
  archives,
  copies,
  looks,
  operations,
  racks,
  tickets,
} from '../database/schema.js';
import { ailingAmong, racksNow } from '../racks/index.js';
import { readSettings } from '../settings/index.js';

/** More copies than these are not moved by one plan: the largest are, and the others count as what else lies there. */
const COPIES_AT_MOST = 10_000;
/** Readings and copies by which a rack's rates are judged. */
const JUDGED = 200;

/**
 * What lies where now: every rack, and the copies on those that are here or named, each with the others of its archive.
 * @param also racks that are away and that somebody names
 */
export async function stockNow(db: Database, also: readonly RackId[]): Promise<Stock> {
  const [found, rates, { care }] = await Promise.all([racksNow(db), ratesOf(db), readSettings(db)]);
  const all = found.map((rack) => ({ ...rack, id: rackIdSchema.parse(rack.id) }));
  const ailing = await ailingAmong(db, all);
  const kept = new Map(
    (await db.select({ id: racks.id, free: racks.free, capacity: racks.capacity }).from(racks)).map(
      (row) => [String(row.id), row],
    ),
  );
  const here = all.filter(({ present, id }) => present || also.includes(id)).map(({ id }) => id);
  const [onThese, others, rows] =
    here.length > 0
      ? await Promise.all([copiesOn(db, here), othersOf(db, here), archivesOn(db, here)])
      : [[], [], []];
  const known = new Set(onThese.map(({ id }) => id));
  const complete = new Set(rows.map(({ id }) => id));
  return {
    racks: all.map(({ id, name, present, offPremises, reserve, ...rack }) => {
      const seen = present ? rack : (kept.get(id) ?? rack);
      return {
        ...{ id, name, here: present, offPremises, reserve },
        ...{ ailing: ailing.has(id), capacity: seen.capacity, free: seen.free },
        ...{ reads: rates.reads(id), writes: rates.writes(id) },
      };
    }),
    copies: [...onThese, ...others.filter(({ id }) => !known.has(id))]
      .filter(({ archiveId }) => complete.has(archiveId))
      .map(({ storedBytes, state, ...copy }) => ({
        ...copy,
        bytes: storedBytes,
        damaged: state === 'damaged',
      })),
    archives: rows.map(({ takenAt, customerId, ...row }) => ({
      ...row,
      customerId: idSchema.parse(customerId),
      takenAt: takenAt.toISOString(),
    })),
    keepsOffPremises: care.offPremises,
  };
}

const shown = {
  id: copies.id,
  archiveId: copies.archiveId,
  rackId: copies.rackId,
  storedBytes: copies.storedBytes,
  state: copies.state,
};

const copiesOn = (db: Database, ids: RackId[]) =>
  db
    .select(shown)
    .from(copies)
    .where(inArray(copies.rackId, ids))
    .orderBy(desc(copies.storedBytes), desc(copies.id))
    .limit(COPIES_AT_MOST);

/** The archives of those copies, which the database makes once: told their ids, it would look each up by its key. */
function archiveIdsOn(db: Database, ids: RackId[]) {
  const lying = db
    .select({ archiveId: copies.archiveId })
    .from(copies)
    .where(inArray(copies.rackId, ids))
    .orderBy(desc(copies.storedBytes), desc(copies.id))
    .limit(COPIES_AT_MOST)
    .as('lying');
  return db.selectDistinct({ archiveId: lying.archiveId }).from(lying).as('wanted');
}

/** All copies of those archives, wherever they lie. */
function othersOf(db: Database, ids: RackId[]) {
  const wanted = archiveIdsOn(db, ids);
  return db
    .select(shown)
    .from(wanted)
    .innerJoin(copies, eq(copies.archiveId, wanted.archiveId))
    .innerJoin(racks, and(eq(racks.id, copies.rackId), isNull(racks.retiredAt)));
}

function archivesOn(db: Database, ids: RackId[]) {
  const wanted = archiveIdsOn(db, ids);
  return db
    .select({
      id: archives.id,
      deviceId: archives.deviceId,
      customerId: tickets.customerId,
      deviceName: archiveRows.deviceName,
      customerName: archiveRows.customerName,
      ticketNumber: archiveRows.ticketNumber,
      takenAt: archiveRows.takenAt,
    })
    .from(wanted)
    .innerJoin(archives, eq(archives.id, wanted.archiveId))
    .innerJoin(archiveRows, eq(archiveRows.archiveId, archives.id))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId));
}

/** How fast racks are read and written, by what was measured of each. */
export async function ratesOf(
  db: Database,
): Promise<Record<'reads' | 'writes', (id: RackId) => Rate>> {
  const [readings, copied] = await Promise.all([
    db
      .select({ rackId: looks.rackId, bytes: looks.readBytes, durationMs: looks.durationMs })
      .from(looks)
      .where(eq(looks.level, 'bytes'))
      .orderBy(desc(looks.at))
      .limit(JUDGED * 4),
    db
      .select({ input: operations.input })
      .from(operations)
      .where(and(eq(operations.kind, 'copy'), eq(operations.state, 'done')))
      .orderBy(desc(operations.startedAt))
      .limit(JUDGED),
  ]);
  const writings = copied.flatMap(({ input }) => {
    const { data } = kinds.copy.input.safeParse(input.value);
    if (!data?.copied) return [];
    const { sent, durationMs, readBackMs } = data.copied;
    return { rackId: data.to.rackId, bytes: sent.bytes, durationMs: durationMs - readBackMs };
  });
  const of = (samples: { rackId: RackId; bytes: number; durationMs: number }[]) => (id: RackId) =>
    rateFrom(samples.filter(({ rackId }) => rackId === id));
  return { reads: of(readings), writes: of(writings) };
}

/** The copy of an archive on a rack; null where none is. */
export async function copyOn(db: Database, archiveId: ArchiveId, rackId: RackId) {
  const [copy] = await db
    .select()
    .from(copies)
    .where(and(eq(copies.archiveId, archiveId), eq(copies.rackId, rackId)));
  return copy ?? null;
}
