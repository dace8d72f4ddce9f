import { access } from 'node:fs/promises';
import { join } from 'node:path';
import { mustBeRack } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import type { Archive, ArchiveRow, Backup, KnownDevice, Proof } from '@bright-cellar/contract';
import { desc, eq, inArray } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import {
  archives,
  backups,
  copies,
  customers,
  devices,
  proofs,
  racks,
  technicians,
  tickets,
} from '../database/schema.js';

export function knownDevice(row: typeof devices.$inferSelect): KnownDevice {
  const { capacity: _, seenAt: __, ...device } = row;
  return device;
}

/** All backups of these archives, newest first, each with its proofs, newest first. */
export async function backupsOf(db: Database, archiveIds: readonly string[]): Promise<Backup[]> {
  if (archiveIds.length === 0) return [];
  const rows = await db
    .select({ backup: backups, by: technicians.name })
    .from(backups)
    .innerJoin(technicians, eq(technicians.id, backups.takenBy))
    .where(inArray(backups.archiveId, [...archiveIds]))
    .orderBy(desc(backups.takenAt));
  const proofRows = rows.length
    ? await db
        .select({ proof: proofs, by: technicians.name, copyGeneration: copies.generation })
        .from(proofs)
        .innerJoin(technicians, eq(technicians.id, proofs.by))
        .leftJoin(copies, eq(copies.id, proofs.copyId))
        .where(
          inArray(
            proofs.backupId,
            rows.map((r) => r.backup.id),
          ),
        )
        .orderBy(desc(proofs.sequence))
    : [];
  const proofsOf = groupedBy(proofRows, ({ proof }) => proof.backupId);
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
    proofs: (proofsOf.get(backup.id) ?? []).map(({ proof, by: provenBy, copyGeneration }) => ({
      id: proof.id,
      current: proof.generation === copyGeneration,
      at: proof.at.toISOString(),
      by: provenBy,
      level: proof.level,
      outcome: proof.outcome,
      items: proof.items,
      bytes: proof.bytes,
      storedBytes: proof.storedBytes,
      what: proof.what,
    })),
  }));
}

/**
 * When a full reading last found a backup whole, in the state that its copy has now; null when there is none, or
 * anything newer found damage. Only a full reading counts: nothing less makes it safe to erase a device.
 */
export function provenAt(backup: {
  proofs: readonly Pick<Proof, 'level' | 'outcome' | 'current' | 'at'>[];
}): string | null {
  const full = backup.proofs.findIndex(
    (p) => p.level === 'full' && p.outcome === 'whole' && p.current,
  );
  const damaged = backup.proofs.findIndex((p) => p.outcome === 'damaged');
  if (full < 0 || (damaged >= 0 && damaged < full)) return null;
  return backup.proofs[full]?.at ?? null;
}

/** Whether the newest look at a backup found damage. */
export function foundDamaged(backup: Backup): boolean {
  return backup.proofs[0]?.outcome === 'damaged';
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

type BaseRow = Awaited<ReturnType<typeof baseQuery>>[number];
type CopyRow = { archiveId: string; rackName: string; storedBytes: number };

/** In their order, by what they belong to. */
function groupedBy<Row>(rows: readonly Row[], of: (row: Row) => string): Map<string, Row[]> {
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const group = groups.get(of(row));
    if (group) group.push(row);
    else groups.set(of(row), [row]);
  }
  return groups;
}

/** @param all its backups, newest first @param lies its copies */
function rowOf(base: BaseRow, all: readonly Backup[], lies: readonly CopyRow[]): ArchiveRow[] {
  const [newest] = all;
  if (!newest) return [];
  return [
    {
      id: base.archive.id,
      ticketNumber: base.ticketNumber,
      customerName: base.customerName,
      device: knownDevice(base.device),
      takenAt: newest.takenAt,
      items: newest.items,
      bytes: newest.bytes,
      storedBytes: Math.max(0, ...lies.map((p) => p.storedBytes)),
      rackName: lies.map((p) => p.rackName).join(', '),
      provenAt: provenAt(newest),
      damaged: foundDamaged(newest),
    },
  ];
}

export async function listArchives(db: Database): Promise<ArchiveRow[]> {
  const rows = await baseQuery(db).orderBy(desc(archives.createdAt));
  const all = await backupsOf(
    db,
    rows.map((r) => r.archive.id),
  );
  const places = await db
    .select({
      archiveId: copies.archiveId,
      rackName: racks.name,
      storedBytes: copies.storedBytes,
    })
    .from(copies)
    .innerJoin(racks, eq(racks.id, copies.rackId));
  const backupsIn = groupedBy(all, ({ archiveId }) => archiveId);
  const copiesIn = groupedBy(places, ({ archiveId }) => archiveId);
  return rows.flatMap((row) => {
    const { id } = row.archive;
    return rowOf(row, backupsIn.get(id) ?? [], copiesIn.get(id) ?? []);
  });
}

/** @throws Failure `not-found` */
export async function archiveById(db: Database, id: string): Promise<Archive> {
  const [base] = await baseQuery(db).where(eq(archives.id, id));
  if (!base) throw new Failure('not-found');
  const all = await backupsOf(db, [id]);
  const places = await copiesOf(db, id);
  const [row] = rowOf(base, all, places);
  if (!row) throw new Failure('not-found');
  return {
    ...row,
    passwordHolder: base.archive.passwordHolder,
    encrypted: base.archive.encrypted,
    escrow: base.archive.escrow,
    reminder: base.archive.reminder,
    backups: all,
    copies: await Promise.all(
      places.map(async (place) => ({
        id: place.id,
        rackId: place.rackId,
        rackName: place.rackName,
        folder: place.folder,
        storedBytes: place.storedBytes,
        present: await isPresent(place),
      })),
    ),
  };
}

export async function copiesOf(db: Database, archiveId: string) {
  return db
    .select({
      id: copies.id,
      digest: copies.digest,
      generation: copies.generation,
      archiveId: copies.archiveId,
      rackId: racks.id,
      rackName: racks.name,
      rackPath: racks.path,
      folder: copies.folder,
      storedBytes: copies.storedBytes,
    })
    .from(copies)
    .innerJoin(racks, eq(racks.id, copies.rackId))
    .where(eq(copies.archiveId, archiveId));
}

/** A copy that is there now, and where. */
export type PresentCopy = Place & { path: string };
type Place = Awaited<ReturnType<typeof copiesOf>>[number];

/** On its rack, which is the very one: not a folder of that name on a disk that is mounted there instead. */
async function isPresent({ rackPath, rackId, folder }: Place): Promise<boolean> {
  try {
    mustBeRack(rackPath, rackId);
  } catch {
    return false;
  }
  return isThere(join(rackPath, folder));
}

/** Every copy that is there now. */
export async function presentCopies(db: Database, archiveId: string): Promise<PresentCopy[]> {
  const found: PresentCopy[] = [];
  for (const place of await copiesOf(db, archiveId)) {
    if (await isPresent(place)) found.push({ ...place, path: join(place.rackPath, place.folder) });
  }
  return found;
}

/** A copy that is there now. @throws Failure `archive-not-here` that says where it should be. */
export async function presentCopy(db: Database, archiveId: string): Promise<PresentCopy> {
  const [present] = await presentCopies(db, archiveId);
  if (present) return present;
  const places = await copiesOf(db, archiveId);
  const names = places.map((p) => p.rackName).join(' or ');
  throw new Failure('archive-not-here', {
    next: names ? `Connect ${names}, where it lies.` : 'No copy of it is known.',
  });
}

export async function isThere(path: string): Promise<boolean> {
  return access(path).then(
    () => true,
    () => false,
  );
}

/** The newest archive of a device that is on its rack now: its next backup can go into it. */
export async function presentArchiveOf(db: Database, deviceId: string) {
  const rows = await db
    .select({ id: archives.id, reminder: archives.reminder })
    .from(archives)
    .where(eq(archives.deviceId, deviceId))
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

/** What belongs to one backup. @throws Failure `not-found` */
export async function backupForWork(db: Database, backupId: string) {
  const [row] = await db
    .select({ backup: backups, archive: archives, device: devices, ticket: tickets })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(eq(backups.id, backupId));
  if (!row) throw new Failure('not-found');
  return row;
}
