import { randomUUID } from 'node:crypto';
import { basename, join } from 'node:path';
import {
  backupReadiness,
  eraseOrder,
  Failure,
  firstUnmet,
  formatBytes,
  isProblem,
  passwordProblem,
  provenBackupOf,
  restoreReadiness,
  totalOf,
  type BackupEvidence,
  type Condition,
  type DeviceFacts,
  type Problem,
  type ProvenBackup,
} from '@bright-cellar/core';
import type { Backup, Compared, NewBackup, Operation, ProofLevel } from '@bright-cellar/contract';
import { desc, eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archives, backups, devices, operations, tickets } from '../database/schema.js';
import type { OrderClient } from '../work/order-client.js';
import { backupsOf, copiesOf, presentCopy, provenAt } from './archives.js';
import { noteAudit } from './audit.js';
import type { BenchWatch } from './bench.js';
import { continueOperation, operationById, operationRow, startOperation } from './operations.js';
import { rackWithRoom } from './racks.js';
import { ticketForWork } from './tickets.js';

/** What starting any long work needs. Every rule that could be broken by a screen is judged here, from facts asked anew. */
export interface Shop {
  db: Database;
  bench: BenchWatch;
  orders: OrderClient;
}

/** Frames, the index and the bag's own files come on top of the contents. */
const STORED_OVERHEAD = 1.02;

function mustBeReady(
  conditions: readonly Condition[],
  kind: 'device-not-ready' | 'device-in-use',
): void {
  const unmet = firstUnmet(conditions);
  if (!unmet) return;
  throw new Failure(unmet.id === 'empty' ? 'device-in-use' : kind, {
    ...(unmet.id === 'empty'
      ? {}
      : {
          what: `The device is not ready: ${unmet.label.toLowerCase()} is not met (${unmet.reading}).`,
        }),
    next: unmet.remedy ?? '',
  });
}

export async function startBackup(
  shop: Shop,
  number: string,
  wanted: NewBackup,
  technicianId: string,
): Promise<Operation> {
  const { db, bench } = shop;
  const { ticket, device } = await ticketForWork(db, number);
  if (!ticket.agreedBackup) {
    throw new Failure('device-not-ready', {
      what: 'The customer has not agreed to a backup.',
      next: 'Ask, and note the agreement on the ticket.',
    });
  }
  const weak = wanted.archiveId === null ? passwordProblem(wanted.password) : null;
  if (weak) throw new Failure(weak.code, weak);
  const onBench = bench.bySerial(device.serial);
  if (!onBench) throw new Failure('device-not-here');
  const facts = await bench.freshFacts(onBench.id);
  await mustBeFree(db, facts.serial);
  mustBeReady(backupReadiness(facts), 'device-not-ready');
  const expected = totalOf(facts.content ?? []);
  const takenAt = new Date().toISOString();
  const place = wanted.archiveId
    ? await knownPlace(shop, wanted.archiveId, device.id, wanted.password, technicianId, ticket.id)
    : await newPlace(db, wanted, expected.bytes, folderName(number, takenAt, facts));
  const backupId = randomUUID();
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'backup',
      holds: facts.serial,
      phase: 'listing',
      ticketId: ticket.id,
      deviceId: facts.id,
      deviceName: facts.name,
      archiveId: place.archive,
      backupId,
      startedBy: technicianId,
      action: 'backup-started',
      what: `Backup started: ${formatBytes(expected.bytes)} onto ${place.rackName}${place.isNew ? '' : ', into the archive that is there'}.`,
      input: {
        kind: 'backup',
        rackId: place.rackId,
        folder: place.folder,
        folderName: basename(place.folder),
        archive: place.archive,
        isNew: place.isNew,
        backup: backupId,
        takenAt,
        ticket: number,
        device: {
          family: facts.family,
          familyName: facts.familyName,
          kind: facts.kind,
          model: facts.model,
          name: facts.name,
          serial: facts.serial,
          osName: facts.osName,
          osVersion: facts.osVersion,
        },
        contentRevision: facts.contentRevision ?? '',
        expected,
        passwordHolder: wanted.passwordHolder,
        reminder: wanted.reminder,
        ticketId: ticket.id,
        knownDeviceId: device.id,
      },
    },
    wanted.password,
  );
}

/** Where a backup goes. */
interface Place {
  rackId: string;
  rackName: string;
  folder: string;
  archive: string;
  isNew: boolean;
}

async function newPlace(
  db: Database,
  wanted: NewBackup,
  bytes: number,
  name: string,
): Promise<Place> {
  if (wanted.rackId === null) throw new Failure('input-not-valid', { next: 'Choose a rack.' });
  const rack = await rackWithRoom(db, wanted.rackId, Math.ceil(bytes * STORED_OVERHEAD));
  const folder = join(rack.path, name);
  return { rackId: rack.id, rackName: rack.name, folder, archive: randomUUID(), isNew: true };
}

/** An archive of the same device that is there, and that the password opens. */
async function knownPlace(
  shop: Shop,
  archive: string,
  deviceId: string,
  password: string,
  technicianId: string,
  ticketId: string,
): Promise<Place> {
  const { db } = shop;
  const [row] = await db.select().from(archives).where(eq(archives.id, archive));
  if (!row) throw new Failure('not-found');
  if (row.deviceId !== deviceId) throw new Failure('archive-of-another');
  const folder = await presentCopy(db, archive);
  await mustOpen(shop, folder, password, ticketId, technicianId);
  const [place] = (await copiesOf(db, archive)).filter(
    (c) => join(c.rackPath, c.folder) === folder,
  );
  if (!place) throw new Failure('not-found');
  return { rackId: place.rackId, rackName: place.rackName, folder, archive, isNew: false };
}

/** The input of a backup that ended badly. @throws Failure `not-found` when there is nothing to go on from. */
async function cutBackup(db: Database, operationId: string) {
  const operation = await operationById(db, operationId);
  const { input } = await operationRow(db, operationId);
  if (input.kind !== 'backup' || operation.keptBytes === null) {
    throw new Failure('not-found', { what: 'Nothing of that backup is left to go on from.' });
  }
  return { operation, input };
}

/** Lets a backup that was cut off go on from what is on the rack. */
export async function continueBackup(
  shop: Shop,
  operationId: string,
  password: string,
  technicianId: string,
): Promise<Operation> {
  const { db, bench } = shop;
  const { input } = await cutBackup(db, operationId);
  const onBench = bench.bySerial(input.device.serial);
  if (!onBench) throw new Failure('device-not-here');
  const facts = await bench.freshFacts(onBench.id);
  await mustBeFree(db, facts.serial);
  mustBeReady(backupReadiness(facts), 'device-not-ready');
  await mustOpen(shop, input.folder, password, input.ticketId, technicianId);
  return continueOperation(db, shop.orders, operationId, {
    holds: facts.serial,
    deviceId: facts.id,
    technicianId,
    password,
  });
}

/** Gives up a backup that was cut off, and frees its space. */
export async function discardBackup(
  shop: Shop,
  operationId: string,
  technicianId: string,
): Promise<Operation> {
  const { operation, input } = await cutBackup(shop.db, operationId);
  await shop.orders.discard(input.folder);
  await noteAudit(shop.db, {
    technicianId,
    ticketId: input.ticketId,
    action: 'backup-discarded',
    what: `The backup that was cut off was given up; ${formatBytes(operation.keptBytes ?? 0)} are free again.`,
  });
  return operationById(shop.db, operationId);
}

/** What of a device an archive has as it is, and what a backup would send. */
export async function compareDevice(
  shop: Shop,
  archiveId: string,
  deviceId: string,
  password: string,
  technicianId: string,
): Promise<Compared> {
  const [row] = await shop.db.select().from(archives).where(eq(archives.id, archiveId));
  if (!row) throw new Failure('not-found');
  const facts = await shop.bench.freshFacts(deviceId);
  mustBeReady(backupReadiness(facts), 'device-not-ready');
  const folder = await presentCopy(shop.db, archiveId);
  await mustOpen(shop, folder, password, row.ticketId, technicianId);
  return shop.orders.compare(folder, password, deviceId);
}

/** A name somebody can read on a drive: ticket, date and time, model, end of the serial. */
function folderName(number: string, takenAt: string, facts: DeviceFacts): string {
  const when = takenAt.slice(0, 16).replace('T', '-').replace(':', '');
  const model = `${facts.family}-${facts.model}`.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  return `${number}_${when}_${model}_${facts.serial.slice(-4)}`;
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

/** Tries the password before anything else happens, and notes a wrong one. */
export async function mustOpen(
  shop: Shop,
  folder: string,
  password: string,
  ticketId: string,
  technicianId: string,
): Promise<void> {
  try {
    await shop.orders.tryPassword(folder, password);
  } catch (error) {
    if (error instanceof Failure && error.problem.code === 'wrong-password') {
      await noteAudit(shop.db, {
        technicianId,
        ticketId,
        action: 'wrong-password',
        what: 'A password was tried that does not open the backup.',
      });
    }
    throw error;
  }
}

export async function startProof(
  shop: Shop,
  backupId: string,
  { level, password }: { level: ProofLevel; password: string },
  technicianId: string,
): Promise<Operation> {
  const { db } = shop;
  const { backup, archive, device, ticket } = await backupForWork(db, backupId);
  const archiveFolder = await presentCopy(db, archive.id);
  if (password !== '') await mustOpen(shop, archiveFolder, password, ticket.id, technicianId);
  else if (level !== 'bytes') throw new Failure('wrong-password');
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'prove',
      holds: archive.id,
      phase: 'opening',
      ticketId: ticket.id,
      deviceId: null,
      deviceName: device.name,
      archiveId: archive.id,
      backupId,
      startedBy: technicianId,
      action: 'proof-started',
      what: level === 'full' ? 'Proof started.' : `Look at the archive started: ${level}.`,
      input: {
        kind: 'prove',
        archiveFolder,
        level,
        expected: { items: backup.items, bytes: backup.bytes },
      },
    },
    password,
  );
}

/** Whether a device can take a backup, condition by condition. */
export async function restoreTarget(
  shop: Shop,
  backupId: string,
  deviceId: string,
): Promise<{ backup: Backup; conditions: Condition[]; facts: DeviceFacts }> {
  const { backup: row, device } = await backupForWork(shop.db, backupId);
  const facts = await shop.bench.freshFacts(deviceId);
  const [backup] = (await backupsOf(shop.db, [row.archiveId])).filter((b) => b.id === backupId);
  if (!backup) throw new Failure('not-found');
  const conditions = restoreReadiness(facts, {
    family: device.family,
    familyName: device.familyName,
    osVersion: row.osVersion,
    bytes: row.bytes,
  });
  return { backup, conditions, facts };
}

export async function startRestore(
  shop: Shop,
  backupId: string,
  wanted: { deviceId: string; serialTail: string; password: string },
  technicianId: string,
): Promise<Operation> {
  const { db } = shop;
  const { backup, archive, device, ticket } = await backupForWork(db, backupId);
  const { conditions, facts } = await restoreTarget(shop, backupId, wanted.deviceId);
  await mustBeFree(db, facts.serial);
  mustBeReady(conditions, 'device-not-ready');
  if (!facts.serial.toUpperCase().endsWith(wanted.serialTail.toUpperCase())) {
    throw new Failure('wrong-serial');
  }
  const archiveFolder = await presentCopy(db, archive.id);
  await mustOpen(shop, archiveFolder, wanted.password, ticket.id, technicianId);
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'restore',
      holds: facts.serial,
      phase: 'opening',
      ticketId: ticket.id,
      deviceId: facts.id,
      deviceName: `${facts.familyName} ${facts.model} ${facts.serial}`,
      archiveId: archive.id,
      backupId,
      startedBy: technicianId,
      action: 'restore-started',
      what: `Restore started onto ${facts.familyName} ${facts.model} ${facts.serial}.`,
      input: {
        kind: 'restore',
        archiveFolder,
        serial: facts.serial,
        family: device.family,
        osVersion: backup.osVersion,
        expected: { items: backup.items, bytes: backup.bytes },
      },
    },
    wanted.password,
  );
}

/** The proven backup that makes it safe to erase this device, or why there is none. */
async function provenFor(
  shop: Shop,
  facts: DeviceFacts,
): Promise<{ proven: ProvenBackup | Problem; ticketId: string | null }> {
  const rows = await shop.db
    .select({ backup: backups, ticketId: archives.ticketId })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .where(eq(devices.serial, facts.serial))
    .orderBy(desc(backups.takenAt));
  const described = await backupsOf(shop.db, [...new Set(rows.map((r) => r.backup.archiveId))]);
  const evidence: BackupEvidence[] = [];
  for (const { backup } of rows) {
    const proof = described.find((d) => d.id === backup.id);
    // A backup that is not on its rack now protects nobody.
    const here = await presentCopy(shop.db, backup.archiveId).then(
      () => true,
      () => false,
    );
    const at = proof && here ? provenAt(proof) : null;
    evidence.push({
      backupId: backup.id,
      deviceSerial: facts.serial,
      contentRevision: backup.contentRevision,
      failedItems: backup.failed.reduce((sum, f) => sum + f.count, 0),
      provenAt: at ? new Date(at) : null,
    });
  }
  return { proven: provenBackupOf(facts, evidence), ticketId: rows[0]?.ticketId ?? null };
}

export async function eraseReadiness(shop: Shop, deviceId: string) {
  const facts = await shop.bench.freshFacts(deviceId);
  const { proven } = await provenFor(shop, facts);
  const held = totalOf(facts.content ?? []);
  const loses = facts.empty
    ? 'The device is empty already.'
    : `Everything on ${facts.name} is lost: ${held.items} items, ${formatBytes(held.bytes)}.`;
  return isProblem(proven)
    ? { allowed: false, because: proven.what, next: proven.next, loses }
    : {
        allowed: !facts.empty,
        because: 'Its backup is proven and holds what is on it now.',
        next: null,
        loses,
      };
}

export async function startErase(
  shop: Shop,
  deviceId: string,
  typedTail: string,
  technicianId: string,
): Promise<Operation> {
  const facts = await shop.bench.freshFacts(deviceId);
  await mustBeFree(shop.db, facts.serial);
  const { proven, ticketId } = await provenFor(shop, facts);
  if (isProblem(proven)) throw new Failure(proven.code, proven);
  const order = eraseOrder(facts, proven, typedTail);
  if (isProblem(order)) throw new Failure(order.code, order);
  return startOperation(
    shop.db,
    shop.orders,
    {
      kind: 'erase',
      holds: order.device.serial,
      phase: 'erasing',
      ticketId,
      deviceId: order.device.id,
      deviceName: order.device.name,
      archiveId: null,
      backupId: order.proof.backupId,
      startedBy: technicianId,
      action: 'erase-started',
      what: `Erase started on ${facts.familyName} ${facts.model} ${facts.serial}.`,
      input: { kind: 'erase', serial: order.device.serial, provenBackupId: order.proof.backupId },
    },
    '',
  );
}

/** Nothing else may be running on the device. The row's unique hold says so too; this says it before anything is asked. */
async function mustBeFree(db: Database, serial: string): Promise<void> {
  const [held] = await db
    .select({ id: operations.id })
    .from(operations)
    .where(eq(operations.holds, serial));
  if (held) throw new Failure('device-busy');
}
