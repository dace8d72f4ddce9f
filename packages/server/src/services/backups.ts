import { randomUUID } from 'node:crypto';
import { basename, join } from 'node:path';
import { UNFINISHED } from '@bright-cellar/archive';
import {
  backupReadiness,
  choiceOf,
  coverageOf,
  Failure,
  formatBytes,
  holdsEverything,
  OPEN_PASSWORD,
  type CoverageLine,
  type DeviceFacts,
} from '@bright-cellar/core';
import { newPasswordProblem } from '@bright-cellar/core/strength';
import type { BackupScope, FurtherCost, NewBackup, Operation } from '@bright-cellar/contract';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archives } from '../database/schema.js';
import { archiveName } from './archive-names.js';
import { isThere, presentCopy } from './archives.js';
import { noteAudit } from './audit.js';
import { escrowRecipient } from './escrow.js';
import {
  archiveLock,
  continueOperation,
  deviceLock,
  operationById,
  operationRow,
  startOperation,
} from './operations.js';
import { roomOn, type Planning } from './planning.js';
import { listRacks, rackWithRoom } from './racks.js';
import { mustBeFree, mustBeReady, mustOpen, type Shop } from './shop.js';
import { agreedOf, ticketForWork } from './visits.js';

/** Frames, the index and the bag's own files come on top of the contents. */
export const STORED_OVERHEAD = 1.02;

/** What a backup will take, and what it will not, as it was judged before it started. */
async function scopeOf(
  planning: Planning,
  facts: DeviceFacts,
  wanted: Pick<NewBackup, 'mode' | 'choice' | 'encrypted'>,
): Promise<{
  scope: BackupScope;
  choice: NewBackup['choice'];
  coverage: CoverageLine[];
  expected: { items: number; bytes: number };
}> {
  const choice = choiceOf(wanted.mode, wanted.choice);
  const { classes, groups } = await planning.chosen(facts, choice, wanted.encrypted);
  const expected = {
    items: classes.reduce((sum, c) => sum + c.items, 0),
    bytes: classes.reduce((sum, c) => sum + c.bytes, 0),
  };
  if (expected.items === 0) throw new Failure('nothing-chosen');
  const planned = { choice, encrypted: wanted.encrypted };
  return {
    scope: {
      mode: wanted.mode,
      encrypted: wanted.encrypted,
      everything: holdsEverything(facts, planned),
    },
    choice,
    coverage: coverageOf(facts, planned, classes, groups),
    expected,
  };
}

export async function startBackup(
  shop: Shop,
  planning: Planning,
  number: string,
  wanted: NewBackup,
  technicianId: string,
): Promise<Operation> {
  const { db, bench } = shop;
  const { ticket, device, customer } = await ticketForWork(db, number);
  const agreed = await agreedOf(db, ticket.id);
  if (!agreed.backup) {
    throw new Failure('not-agreed', { what: 'The customer has not agreed to a backup.' });
  }
  const password = wanted.encrypted ? wanted.password : OPEN_PASSWORD;
  const weak =
    wanted.archiveId === null && wanted.encrypted ? newPasswordProblem(wanted.password) : null;
  if (weak) throw new Failure(weak.code, weak);
  const onBench = bench.bySerial(device.serial);
  if (!onBench) throw new Failure('device-not-here');
  const facts = await bench.freshFacts(onBench.id);
  await mustBeFree(db, facts.serial);
  mustBeReady(backupReadiness(facts), wanted.accepted);
  const { scope, choice, coverage, expected } = await scopeOf(planning, facts, wanted);
  const estimate = planning.estimateFor(number, wanted, facts);
  const atMost = estimate && Math.ceil(estimate.stored.high * STORED_OVERHEAD);
  const takenAt = new Date().toISOString();
  const place = wanted.archiveId
    ? await knownPlace(shop, wanted.archiveId, device.id, password, technicianId, ticket.id)
    : await newPlace(
        db,
        wanted,
        atMost ?? Math.ceil(expected.bytes * STORED_OVERHEAD),
        await archiveName(db, number, customer.name, facts, takenAt),
      );
  // Of a further backup nobody knows the size until it was looked at; what is full already is full.
  if (!place.isNew) await rackWithRoom(db, place.rackId, atMost ?? 0);
  const escrow =
    place.isNew && wanted.encrypted && agreed.escrow ? await escrowRecipient(db) : null;
  if (place.isNew && wanted.encrypted && agreed.escrow && escrow === null) {
    throw new Failure('escrow-missing');
  }
  const backupId = randomUUID();
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'backup',
      locks: [deviceLock(facts.serial), archiveLock(place.archive)],
      phase: 'listing',
      ticketId: ticket.id,
      deviceId: facts.id,
      deviceName: facts.name,
      archiveId: place.archive,
      backupId,
      estimate,
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
        scope,
        choice,
        coverage,
        ...(escrow === null ? {} : { escrow }),
        passwordHolder: wanted.encrypted ? wanted.passwordHolder : 'nobody',
        reminder: wanted.encrypted ? wanted.reminder : '',
        ticketId: ticket.id,
        knownDeviceId: device.id,
      },
    },
    password,
  );
}

/** What was accepted when a backup began is not asked for again when it goes on. */
function acceptable(facts: DeviceFacts): string[] {
  return backupReadiness(facts)
    .filter((c) => c.weight === 'accept')
    .map((c) => c.id);
}

/** Where a backup goes. */
interface Place {
  rackId: string;
  rackName: string;
  folder: string;
  archive: string;
  isNew: boolean;
}

export async function newPlace(
  db: Database,
  wanted: Pick<NewBackup, 'rackId'>,
  bytes: number,
  name: string,
): Promise<Place> {
  if (wanted.rackId === null) throw new Failure('input-not-valid', { next: 'Choose a rack.' });
  const rack = await rackWithRoom(db, wanted.rackId, bytes);
  const folder = await freeFolder(rack.path, name);
  return { rackId: rack.id, rackName: rack.name, folder, archive: randomUUID(), isNew: true };
}

/** A folder that is not there yet, nor begun: a second archive of one minute gets a number. */
async function freeFolder(rackPath: string, name: string): Promise<string> {
  for (let n = 1; ; n++) {
    const folder = join(rackPath, n === 1 ? name : `${name}-${n}`);
    const begun = join(rackPath, `${UNFINISHED}${basename(folder)}`);
    if (!(await isThere(folder)) && !(await isThere(begun))) return folder;
  }
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
  const { path: folder, rackId, rackName } = await presentCopy(db, archive);
  await mustOpen(shop, folder, password, ticketId, technicianId);
  return { rackId, rackName, folder, archive, isNew: false };
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
  if (input.recovered !== undefined) {
    await mustOpen(shop, input.folder, password, input.ticketId, technicianId);
    return continueOperation(db, shop.orders, operationId, {
      locks: [deviceLock(input.device.serial), archiveLock(input.archive)],
      deviceId: null,
      technicianId,
      password,
    });
  }
  const onBench = bench.bySerial(input.device.serial);
  if (!onBench) throw new Failure('device-not-here');
  const facts = await bench.freshFacts(onBench.id);
  await mustBeFree(db, facts.serial);
  mustBeReady(backupReadiness(facts), acceptable(facts));
  await mustOpen(shop, input.folder, password, input.ticketId, technicianId);
  return continueOperation(db, shop.orders, operationId, {
    locks: [deviceLock(facts.serial), archiveLock(input.archive)],
    deviceId: facts.id,
    technicianId,
    password,
  });
}

/**
 * Tries the items that failed again: a further backup of the same scope into the same archive, in which
 * only they, and what changed since, are read.
 */
export async function retryFailed(
  shop: Shop,
  planning: Planning,
  operationId: string,
  password: string,
  technicianId: string,
): Promise<Operation> {
  const { input, result, state } = await operationRow(shop.db, operationId);
  if (input.kind !== 'backup' || state !== 'done' || !result || result.failed.length === 0) {
    throw new Failure('not-found', { what: 'No item of that work failed.' });
  }
  const { mode, encrypted } = input.scope;
  const onBench = shop.bench.bySerial(input.device.serial);
  return startBackup(
    shop,
    planning,
    input.ticket,
    {
      mode,
      encrypted,
      choice: input.choice,
      accepted: onBench ? acceptable(onBench) : [],
      rackId: null,
      archiveId: input.archive,
      fromDesk: false,
      password,
      passwordHolder: 'customer',
      reminder: '',
    },
    technicianId,
  );
}

/** Gives up a backup that was cut off, and frees its space. */
export async function discardBackup(
  shop: Shop,
  operationId: string,
  technicianId: string,
): Promise<Operation> {
  const { operation, input } = await cutBackup(shop.db, operationId);
  await shop.orders.discard({ folder: input.folder, backup: input.backup });
  await noteAudit(shop.db, {
    technicianId,
    ticketId: input.ticketId,
    action: 'backup-discarded',
    what: `The backup that was cut off was given up; ${formatBytes(operation.keptBytes ?? 0)} are free again.`,
  });
  return operationById(shop.db, operationId);
}

/** What a further backup would send and cost. @throws Failure `wrong-password`, `archive-of-another`, `archive-not-here` */
export async function furtherCost(
  shop: Shop,
  planning: Planning,
  number: string,
  wanted: Pick<NewBackup, 'mode' | 'choice' | 'encrypted' | 'password'> & { archiveId: string },
  technicianId: string,
): Promise<FurtherCost> {
  const { archiveId } = wanted;
  const { ticket, device } = await ticketForWork(shop.db, number);
  const facts = await shop.bench.presentDevice(device.serial);
  mustBeReady(backupReadiness(facts), acceptable(facts));
  const password = wanted.encrypted ? wanted.password : OPEN_PASSWORD;
  const place = await knownPlace(shop, archiveId, device.id, password, technicianId, ticket.id);
  const { same, toSend, ids } = await shop.orders.compare({
    folder: place.folder,
    password,
    device: facts.id,
    choice: choiceOf(wanted.mode, wanted.choice),
  });
  const estimate = await planning.furtherCost(number, wanted, facts, archiveId, ids);
  const rack = (await listRacks(shop.db)).find((r) => r.id === place.rackId);
  if (!rack) throw new Failure('not-found');
  return { same, toSend, estimate, rackName: place.rackName, ...roomOn(rack, estimate.stored) };
}
