import { ArchiveFiles, mustBeRack } from '@bright-cellar/archive';
import {
  Failure,
  knownOfBackup,
  type ArchiveId,
  type BackupId,
  type CopyId,
  type DeviceId,
} from '@bright-cellar/core';
import type { Archive, Backup, KnownDevice } from '@bright-cellar/contract';
import { and, desc, eq, inArray, isNull, sql, type SQL } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { nameOf } from '../database/columns.js';
import {
  archives,
  backups,
  copies,
  customers,
  devices,
  disposals,
  racks,
  technicians,
  tickets,
} from '../database/schema.js';
import { mountedAt, storeOf } from '../racks/index.js';
import { proofsOf } from './proofs.js';

export function knownDevice(row: typeof devices.$inferSelect): KnownDevice {
  const { capacity: _, seenAt: __, ...device } = row;
  return device;
}

/** All backups of these archives, newest first, each with its proofs, newest first. */
export async function backupsOf(db: Database, archiveIds: readonly ArchiveId[]): Promise<Backup[]> {
  if (archiveIds.length === 0) return [];
  const rows = await db
    .select({ backup: backups, by: nameOf(technicians) })
    .from(backups)
    .leftJoin(technicians, eq(technicians.id, backups.takenBy))
    .where(and(inArray(backups.archiveId, [...archiveIds]), isNull(backups.prunedIn)))
    .orderBy(desc(backups.takenAt));
  const found = await proofsOf(
    db,
    rows.map((r) => r.backup.id),
  );
  return rows.map(({ backup, by }) => ({
    id: backup.id,
    archiveId: backup.archiveId,
    takenAt: backup.takenAt.toISOString(),
    takenBy: by,
    osVersion: backup.osVersion,
    items: backup.items,
    bytes: backup.bytes,
    storedBytes: backup.storedBytes,
    newItems: backup.newItems,
    newBytes: backup.newBytes,
    durationMs: backup.durationMs,
    digest: backup.digest,
    failed: backup.failed,
    classes: backup.classes,
    scope: backup.scope,
    coverage: backup.coverage,
    proofs: found.get(backup.id) ?? [],
  }));
}

function baseQuery(db: Database) {
  return db
    .select({
      archive: archives,
      ticketNumber: tickets.number,
      customerName: customers.name,
      device: devices,
    })
    .from(archives)
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, archives.deviceId));
}

/** @throws Failure `not-found` */
export async function archiveById(db: Database, id: ArchiveId): Promise<Archive> {
  const [base] = await baseQuery(db).where(eq(archives.id, id));
  if (!base) throw new Failure('not-found');
  const all = await backupsOf(db, [id]);
  const places = await copiesOf(db, id);
  const [newest] = all;
  if (!newest) throw new Failure('not-found');
  return {
    id,
    ticketNumber: base.ticketNumber,
    customerName: base.customerName,
    device: knownDevice(base.device),
    takenAt: newest.takenAt,
    items: newest.items,
    bytes: newest.bytes,
    storedBytes: Math.max(0, ...places.map((p) => p.storedBytes)),
    rackName: places.map((p) => p.rackName).join(', '),
    ...knownOfBackup(newest.proofs),
    passwordHolder: base.archive.passwordHolder,
    encrypted: base.archive.encrypted,
    escrow: base.archive.escrow,
    reminder: base.archive.reminder,
    disposal: base.archive.disposedAt ? await disposalOf(db, id) : null,
    backups: all,
    copies: await Promise.all(
      places.map(async (place) => ({
        id: place.id,
        rackId: place.rackId,
        rackName: place.rackName,
        folder: place.folder,
        storedBytes: place.storedBytes,
        present: await isPresent(place),
        isNewest: place.generation === newestOf(places),
        state: place.state,
        checkedAt: place.checkedAt?.toISOString() ?? null,
        checkedLevel: place.checkedLevel,
      })),
    ),
  };
}

async function disposalOf(db: Database, archiveId: ArchiveId): Promise<Archive['disposal']> {
  const [row] = await db
    .select({ id: disposals.id, number: disposals.number, doneAt: disposals.doneAt })
    .from(disposals)
    .where(eq(disposals.archiveId, archiveId));
  return row ? { ...row, doneAt: row.doneAt?.toISOString() ?? null } : null;
}

export const copiesOf = (db: Database, archiveId: ArchiveId) =>
  copiesWhere(db, eq(copies.archiveId, archiveId));

/** Null where there is none. */
export async function copyById(db: Database, id: CopyId): Promise<PresentCopy | null> {
  const [copy] = await copiesWhere(db, eq(copies.id, id));
  return copy ?? null;
}

async function copiesWhere(db: Database, where: SQL) {
  return db
    .select({
      id: copies.id,
      digest: copies.digest,
      generation: copies.generation,
      archiveId: copies.archiveId,
      rackId: racks.id,
      rackName: racks.name,
      rackAddress: racks.address,
      folder: copies.folder,
      storedBytes: copies.storedBytes,
      state: copies.state,
      checkedAt: copies.checkedAt,
      checkedLevel: copies.checkedLevel,
      escrowOwed: copies.escrowOwed,
      rackSeen: racks.present,
      rackRetired: sql<number>`${racks.retiredAt} is not null`,
    })
    .from(copies)
    .innerJoin(racks, eq(racks.id, copies.rackId))
    .where(where);
}

const newestOf = (all: readonly { generation: number }[]) =>
  Math.max(...all.map(({ generation }) => generation));

/** A copy that is there now. */
export type PresentCopy = Awaited<ReturnType<typeof copiesOf>>[number];

/** On its rack, which is the very one: not a folder of that name on a disk that is mounted there instead. */
async function isPresent(copy: PresentCopy): Promise<boolean> {
  const { rackAddress, rackId, folder, rackRetired, rackSeen } = copy;
  // A box that was not reached a moment ago keeps nobody waiting.
  if (rackRetired === 1 || (!rackSeen && mountedAt(rackAddress) === null)) return false;
  try {
    const store = storeOf({ address: rackAddress });
    await mustBeRack(store, rackId);
    return !(await new ArchiveFiles(store, folder).work()).isNew;
  } catch {
    return false;
  }
}

/**
 * Every copy that is there now; those of which it is not known that they are damaged first, of these the newest state, and of
 * these what is not reached over a network.
 */
export async function presentCopies(db: Database, archiveId: ArchiveId): Promise<PresentCopy[]> {
  const found: PresentCopy[] = [];
  for (const copy of await copiesOf(db, archiveId)) if (await isPresent(copy)) found.push(copy);
  const isDamaged = ({ state }: PresentCopy) => Number(state === 'damaged');
  const isFar = ({ rackAddress }: PresentCopy) => Number(mountedAt(rackAddress) === null);
  return found.sort(
    (a, b) => isDamaged(a) - isDamaged(b) || b.generation - a.generation || isFar(a) - isFar(b),
  );
}

/** A copy that is there now, to read. @throws Failure `archive-not-here` that says where it should be. */
export async function presentCopy(db: Database, archiveId: ArchiveId): Promise<PresentCopy> {
  const [present] = await presentCopies(db, archiveId);
  if (present) return present;
  throw notHere(await copiesOf(db, archiveId));
}

/**
 * The copy into which a change goes: one of the newest state, so that no two copies go ways of their own.
 * @throws Failure `archive-not-here` where those are away, though an older may be here
 */
export async function copyToChange(db: Database, archiveId: ArchiveId): Promise<PresentCopy> {
  const all = await copiesOf(db, archiveId);
  const generation = newestOf(all);
  const newest = all.filter((copy) => copy.generation === generation);
  const [copy] = (await presentCopies(db, archiveId)).filter((c) => c.generation === generation);
  if (copy) return copy;
  throw notHere(newest);
}

function notHere(places: readonly PresentCopy[]): Failure {
  const names = places.map((p) => p.rackName).join(' or ');
  return new Failure('archive-not-here', {
    next: names ? `Connect ${names}, where it lies.` : 'No copy of it is known.',
  });
}

/** The newest archive of a customer's device that is on its rack now: its next backup can go into it. Never one of who had the device before. */
export async function presentArchiveOf(
  db: Database,
  { device, customer }: { device: { id: DeviceId }; customer: { id: string } },
) {
  const rows = await db
    .select({ id: archives.id, reminder: archives.reminder })
    .from(archives)
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(and(eq(archives.deviceId, device.id), eq(tickets.customerId, customer.id)))
    .orderBy(desc(archives.createdAt));
  for (const { id, reminder } of rows) {
    const [newest] = await backupsOf(db, [id]);
    const [present] = await presentCopies(db, id);
    if (newest && present) {
      return { id, rackName: present.rackName, takenAt: newest.takenAt, reminder };
    }
  }
  return null;
}

/** What an archive belongs to. @throws Failure `not-found` */
export async function archiveForWork(db: Database, archiveId: ArchiveId) {
  const [row] = await db
    .select({ archive: archives, device: devices, ticket: tickets })
    .from(archives)
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(eq(archives.id, archiveId));
  if (!row) throw new Failure('not-found');
  return row;
}

/** What an operation on an archive, as it lies on racks, has to do with. */
export const workOn = ({
  archive,
  device,
  ticket,
}: Awaited<ReturnType<typeof archiveForWork>>) => ({
  ...{ ticketId: ticket.id, ticketNumber: ticket.number, deviceName: device.name },
  ...{ archiveId: archive.id, deviceId: null, backupId: null },
});

/**
 * What belongs to one backup. Its ticket is that of the visit for which somebody works with it now: the customer's open one for that
 * device, and else the one in which it was taken.
 * @throws Failure `not-found`
 */
export async function backupForWork(db: Database, backupId: BackupId) {
  const [row] = await db
    .select({ backup: backups, archive: archives, device: devices, ticket: tickets })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .innerJoin(tickets, eq(tickets.id, sql`coalesce(${backups.ticketId}, ${archives.ticketId})`))
    .where(and(eq(backups.id, backupId), isNull(backups.prunedIn)));
  if (!row) throw new Failure('not-found');
  const { ticket, device } = row;
  const [open] = await db
    .select()
    .from(tickets)
    .where(
      and(
        ...[eq(tickets.deviceId, device.id), eq(tickets.customerId, ticket.customerId)],
        isNull(tickets.closedAt),
      ),
    )
    .orderBy(desc(tickets.openedAt))
    .limit(1);
  return { ...row, ticket: open ?? ticket };
}
