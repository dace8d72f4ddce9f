import type { QueryOf, routes } from '@bright-cellar/contract';
import {
  idSchema,
  operations as kinds,
  rackIdSchema,
  type ArchiveId,
  type RackId,
} from '@bright-cellar/core';
import {
  rateFrom,
  type Rate,
  type Lying,
  type StockCopy,
  type StockPage,
  type StockRacks,
} from '@bright-cellar/core/placement';
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf } from '../database/page.js';
import {
  archiveRows,
  archives,
  copies,
  COPIES_INDEX,
  looks,
  operations,
  racks,
  tickets,
} from '../database/schema.js';
import { ailingAmong, racksNow } from '../racks/index.js';
import { readSettings } from '../settings/index.js';

/** Readings and copies by which a rack's rates are judged. */
const JUDGED = 200;
/** So many copies are told at a time: none keeps the server from others for long. */
const PAGE_COPIES = 200;

/** Every rack as a move plan sees it. */
export async function stockRacks(db: Database): Promise<StockRacks> {
  const [found, rates, { care }, rows] = await Promise.all([
    racksNow(db),
    ratesOf(db),
    readSettings(db),
    db.select({ id: racks.id, free: racks.free, capacity: racks.capacity }).from(racks),
  ]);
  const all = found.map((rack) => ({ ...rack, id: rackIdSchema.parse(rack.id) }));
  const ailing = await ailingAmong(db, all);
  const kept = new Map(rows.map((row) => [String(row.id), row]));
  return {
    racks: all.map(({ id, name, present, offPremises, reserve, ...rack }) => {
      const seen = present ? rack : (kept.get(id) ?? rack);
      return {
        ...{ id, name, here: present, offPremises, reserve },
        ...{ ailing: ailing.has(id), capacity: seen.capacity, free: seen.free },
        ...{ reads: rates.reads(id), writes: rates.writes(id) },
      };
    }),
    keepsOffPremises: care.offPremises,
  };
}

/** A page of the archives on some racks, by the size of their copies there: each with all its copies. */
export async function stockPage(
  db: Database,
  { on, after: cursor }: QueryOf<typeof routes.stockPage>,
): Promise<StockPage> {
  const by = copies.storedBytes;
  const beyond = cursor === '' ? undefined : after(cursor, by, copies.id, 'desc');
  // Rack by rack, each read from its index in its very order.
  const lying = await Promise.all(
    on.map((id) =>
      db
        .select({ id: copies.id, archiveId: copies.archiveId, bytes: by })
        .from(copies, { forceIndex: COPIES_INDEX })
        .where(and(eq(copies.rackId, id), beyond))
        .orderBy(...orderOf(by, copies.id, 'desc'))
        .limit(PAGE_COPIES + 1),
    ),
  );
  const all = lying.flat().sort((a, b) => b.bytes - a.bytes || (a.id < b.id ? 1 : -1));
  const page = all.slice(0, PAGE_COPIES);
  const last = page.at(-1);
  const next = all.length > PAGE_COPIES && last ? cursorOf(last.bytes, last.id) : null;
  const archiveIds = [...new Set(page.map(({ archiveId }) => archiveId))];
  if (archiveIds.length === 0) return { copies: [], archives: [], next };
  const [known, rows] = await Promise.all([copiesOf(db, archiveIds), archivesOf(db, archiveIds)]);
  const complete = new Set(rows.map(({ id }) => id));
  return {
    copies: known.filter(({ archiveId }) => complete.has(archiveId)),
    archives: rows.map(({ takenAt, customerId, ...row }) => ({
      ...row,
      customerId: idSchema.parse(customerId),
      takenAt: takenAt.toISOString(),
    })),
    next,
  };
}

/** Where some archives lie now, and where they could: what moves of them are judged by. */
export async function lyingOf(db: Database, archiveIds: ArchiveId[]): Promise<Lying> {
  const [found, known] = await Promise.all([
    stockRacks(db),
    archiveIds.length > 0 ? copiesOf(db, archiveIds) : [],
  ]);
  return { ...found, copies: known };
}

/** All copies of some archives on racks that are in use, wherever they lie. */
async function copiesOf(db: Database, archiveIds: ArchiveId[]): Promise<StockCopy[]> {
  // Apart: joined, two racks and all that lies on them look to the database like less than some archives, once there are many.
  const [inUse, rows] = await Promise.all([
    db.select({ id: racks.id }).from(racks).where(isNull(racks.retiredAt)),
    db
      .select({
        id: copies.id,
        archiveId: copies.archiveId,
        rackId: copies.rackId,
        bytes: copies.storedBytes,
        state: copies.state,
      })
      .from(copies)
      .where(inArray(copies.archiveId, archiveIds)),
  ]);
  const kept = new Set(inUse.map(({ id }) => id));
  return rows
    .filter(({ rackId }) => kept.has(rackId))
    .map(({ state, ...copy }) => ({ ...copy, damaged: state === 'damaged' }));
}

const archivesOf = (db: Database, ids: ArchiveId[]) =>
  db
    .select({
      id: archives.id,
      deviceId: archives.deviceId,
      customerId: tickets.customerId,
      deviceName: archiveRows.deviceName,
      customerName: archiveRows.customerName,
      ticketNumber: archiveRows.ticketNumber,
      takenAt: archiveRows.takenAt,
    })
    .from(archives)
    .innerJoin(archiveRows, eq(archiveRows.archiveId, archives.id))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(inArray(archives.id, ids));

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
