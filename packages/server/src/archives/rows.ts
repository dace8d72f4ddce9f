import {
  agreedFrom,
  dueOn,
  knownOfBackup,
  type ArchiveId,
  type ProofState,
  type RackId,
} from '@bright-cellar/core';
import { and, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { searchText } from '../database/columns.js';
import { Overtaken, type Database, type Transaction } from '../database/connect.js';
import {
  agreements,
  archiveRows,
  archives,
  backups,
  copies,
  customers,
  devices,
  keepings,
  racks,
  tickets,
} from '../database/schema.js';
import { proofsOf } from './proofs.js';
import { sumAll, sumAnew } from './sums.js';

/**
 * Makes an archive's row in the list of archives anew, and the sums that it is in (of all, and of the racks that it lies on),
 * from what the catalogue holds. An archive without a backup has none.
 */
export async function refreshArchiveRow(tx: Transaction, id: ArchiveId): Promise<void> {
  const [base] = await tx
    .select({
      ticketNumber: tickets.number,
      customerName: customers.name,
      deviceName: devices.name,
      familyName: devices.familyName,
      model: devices.model,
      serial: devices.serial,
      kind: devices.kind,
      notes: tickets.notes,
      ticketId: archives.ticketId,
      disposedAt: archives.disposedAt,
      version: archives.version,
    })
    .from(archives)
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .where(eq(archives.id, id));
  if (!base) return;
  await notOvertaken(tx, id, base.version);
  const [before = null] = await tx
    .select({ proof: archiveRows.proof, storedBytes: archiveRows.storedBytes })
    .from(archiveRows)
    .where(eq(archiveRows.archiveId, id));
  const [newest] = await tx
    .select({
      id: backups.id,
      takenAt: backups.takenAt,
      items: backups.items,
      bytes: backups.bytes,
    })
    .from(backups)
    .where(and(eq(backups.archiveId, id), isNull(backups.prunedIn)))
    .orderBy(desc(backups.takenAt))
    .limit(1);
  if (!newest || base.disposedAt) {
    await sumAnew(tx, before, null);
    await tx.delete(archiveRows).where(eq(archiveRows.archiveId, id));
    return;
  }
  const places = await tx
    .select({
      ...{ rackId: racks.id, name: racks.name, storedBytes: copies.storedBytes },
      ...{ generation: copies.generation, state: copies.state },
      ...{ offPremises: racks.offPremises, retiredAt: racks.retiredAt },
    })
    .from(copies)
    .innerJoin(racks, eq(racks.id, copies.rackId))
    .where(eq(copies.archiveId, id))
    .orderBy(racks.name);
  const found = (await proofsOf(tx, [newest.id])).get(newest.id) ?? [];
  const { provenAt, damaged } = knownOfBackup(found);
  const proof: ProofState = damaged ? 'damaged' : provenAt ? 'proven' : 'unproven';
  const generation = Math.max(0, ...places.map((place) => place.generation));
  const sound = places.filter(({ state, retiredAt }) => state !== 'damaged' && retiredAt === null);
  const good = sound.filter((place) => place.generation === generation);
  const { familyName, model, kind, notes, ticketId, disposedAt: _, version: __, ...shown } = base;
  const kept = await keptOf(tx, id, ticketId);
  const rackName = places
    .map(({ name }) => name)
    .join(', ')
    .slice(0, RACK_NAME_SIGNS);
  const row = {
    ...shown,
    takenAt: newest.takenAt,
    items: newest.items,
    bytes: newest.bytes,
    storedBytes: Math.max(0, ...places.map(({ storedBytes }) => storedBytes)),
    rackName,
    provenAt: provenAt ? new Date(provenAt) : null,
    proof,
    goodCopies: good.length,
    olderCopies: sound.length - good.length,
    offPremises: good.some(({ offPremises }) => offPremises),
    ...kept,
    search: searchText(
      ...[base.ticketNumber, base.customerName, base.deviceName],
      ...[familyName, model, kind, base.serial, rackName, notes.slice(0, NOTES_SIGNS)],
    ),
  };
  await sumAnew(tx, before, row);
  await tx
    .insert(archiveRows)
    .values({ archiveId: id, ...row })
    .onDuplicateKeyUpdate({ set: row });
  await refreshRacks(
    tx,
    places.map(({ rackId }) => rackId),
  );
}

/**
 * Nobody made the row anew since this transaction began, and nobody does until it is over. What it sees is what was there when it
 * began: of two that end together, each would overlook what the other found.
 * @throws Overtaken somebody did: it begins anew
 */
async function notOvertaken(tx: Transaction, id: ArchiveId, version: number): Promise<void> {
  const [held] = await tx
    .update(archives)
    .set({ version: version + 1 })
    .where(and(eq(archives.id, id), eq(archives.version, version)));
  if (held.affectedRows !== 1) throw new Overtaken();
}

/** From when an archive is kept no longer, by what was agreed on its visits and said since; and whether somebody holds it. */
async function keptOf(tx: Transaction, id: ArchiveId, first: string) {
  const taken = await tx
    .selectDistinct({ ticketId: backups.ticketId })
    .from(backups)
    .where(eq(backups.archiveId, id));
  const ids = [...new Set([first, ...taken.flatMap(({ ticketId }) => ticketId ?? [])])];
  const [visits, said, words] = await Promise.all([
    tx
      .select({ id: tickets.id, closedAt: tickets.closedAt })
      .from(tickets)
      .where(inArray(tickets.id, ids)),
    tx.select().from(agreements).where(inArray(agreements.ticketId, ids)).orderBy(agreements.id),
    tx
      .select()
      .from(keepings)
      .where(and(eq(keepings.archiveId, id), isNull(keepings.endedAt)))
      .orderBy(desc(keepings.id)),
  ]);
  const longer = words.find(({ kind }) => kind !== 'hold');
  return {
    held: words.some(({ kind }) => kind === 'hold'),
    dueAt: dueOn(
      visits.map((visit) => ({
        closedAt: visit.closedAt,
        keepDays: agreedFrom(said.filter(({ ticketId }) => ticketId === visit.id)).keepDays,
      })),
      longer ? (longer.until ? { until: longer.until } : 'until-told') : null,
    ),
  };
}

/** Archives that backups of a visit are in: what was agreed there is about them too. */
export async function archivesOfTicket(tx: Transaction, ticketId: string): Promise<ArchiveId[]> {
  const [own, taken] = await Promise.all([
    tx.select({ id: archives.id }).from(archives).where(eq(archives.ticketId, ticketId)),
    tx
      .selectDistinct({ id: backups.archiveId })
      .from(backups)
      .where(eq(backups.ticketId, ticketId)),
  ]);
  return [...new Set([...own, ...taken].map(({ id }) => id))];
}

const RACK_NAME_SIGNS = 200;
/** Of what was noted at intake, so much is looked through: colours, marks. */
const NOTES_SIGNS = 300;

/** Counts and adds up anew what lies on some racks. */
export async function refreshRacks(tx: Transaction, ids: readonly RackId[]): Promise<void> {
  if (ids.length === 0) return;
  await tx
    .update(racks)
    .set({
      archives: sql`(select count(*) from ${copies} where ${copies.rackId} = ${racks.id})`,
      storedBytes: sql`(select coalesce(sum(${copies.storedBytes}), 0) from ${copies} where ${copies.rackId} = ${racks.id})`,
    })
    .where(inArray(racks.id, [...ids]));
}

/** Makes the rows that are not there, and adds all of them up: of a catalogue from before there were any. */
export async function makeMissingRows(db: Database): Promise<void> {
  const missing = await db
    .select({ id: archives.id })
    .from(archives)
    .innerJoin(backups, eq(backups.archiveId, archives.id))
    .leftJoin(archiveRows, eq(archiveRows.archiveId, archives.id))
    .where(and(isNull(archiveRows.archiveId), isNull(archives.disposedAt)))
    .groupBy(archives.id);
  for (const { id } of missing) await db.transaction((tx) => refreshArchiveRow(tx, id));
  await sumAll(db);
}
