import { randomUUID } from 'node:crypto';
import { lstat, readdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Failure, formatBytes, recoveredCoverage } from '@bright-cellar/core';
import { newPasswordProblem } from '@bright-cellar/core/strength';
import type { NewRecovered, Operation, RecoveredFolder } from '@bright-cellar/contract';
import type { Database } from '../database/connect.js';
import { archiveName } from './archive-names.js';
import { newPlace, STORED_OVERHEAD } from './backups.js';
import { escrowRecipient } from './escrow.js';
import { archiveLock, deviceLock, startOperation } from './operations.js';
import { presentRacks } from './racks.js';
import { mustBeFree, type Shop } from './shop.js';
import { agreedOf, ticketForWork } from './visits.js';

/** What somebody recovered is put there, on any rack, as the folder that it came in. */
const FOLDER = 'incoming';

/** Folders that wait to be taken over, by name, on every rack that is here. */
export async function listRecovered(db: Database): Promise<RecoveredFolder[]> {
  const found: RecoveredFolder[] = [];
  for (const rack of await presentRacks(db)) {
    const inside = await readdir(join(rack.path, FOLDER), { withFileTypes: true }).catch(() => []);
    for (const { name } of inside.filter((e) => e.isDirectory() && !e.name.startsWith('.'))) {
      found.push({ rackId: rack.id, rackName: rack.name, name });
    }
  }
  return found.sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** A folder that waits, and its path. @throws Failure `not-found` */
async function waiting(db: Database, rackId: string, name: string) {
  const found = (await listRecovered(db)).find((f) => f.rackId === rackId && f.name === name);
  const rack = (await presentRacks(db)).find((r) => r.id === rackId);
  if (!found || !rack) {
    throw new Failure('not-found', {
      what: 'That folder is not there any more.',
      next: `Put it into “${FOLDER}” on a rack that is here.`,
    });
  }
  return { path: join(rack.path, FOLDER, found.name), rackName: rack.name };
}

/** How much such a folder holds. */
export async function measureRecovered(
  db: Database,
  rackId: string,
  name: string,
): Promise<{ items: number; bytes: number }> {
  const { path } = await waiting(db, rackId, name);
  const amount = { items: 0, bytes: 0 };
  const folders = [path];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    // What cannot be read is told by name when it is taken; here it only does not count.
    for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
      amount.items += 1;
      if (entry.isDirectory()) folders.push(join(folder, entry.name));
      const info = entry.isFile() ? await lstat(join(folder, entry.name)).catch(() => null) : null;
      amount.bytes += info?.size ?? 0;
    }
  }
  return amount;
}

/**
 * Takes a recovered folder over, as the first backup of a new archive of the ticket's device.
 * @throws Failure `not-agreed`, `not-found`, `nothing-chosen`, `rack-full`, a weak password's
 */
export async function takeOverRecovered(
  shop: Shop,
  number: string,
  wanted: NewRecovered,
  technicianId: string,
): Promise<Operation> {
  const { db } = shop;
  const { ticket, device, customer } = await ticketForWork(db, number);
  const agreed = await agreedOf(db, ticket.id);
  if (!agreed.backup) {
    throw new Failure('not-agreed', { what: 'The customer has not agreed to a backup.' });
  }
  const weak = newPasswordProblem(wanted.password);
  if (weak) throw new Failure(weak.code, weak);
  await mustBeFree(db, device.serial);
  const { path, rackName } = await waiting(db, wanted.from.rackId, wanted.from.name);
  const expected = await measureRecovered(db, wanted.from.rackId, wanted.from.name);
  if (expected.items === 0) {
    throw new Failure('nothing-chosen', { what: 'That folder is empty.', next: 'Choose another.' });
  }
  const takenAt = new Date().toISOString();
  const place = await newPlace(
    db,
    wanted,
    Math.ceil(expected.bytes * STORED_OVERHEAD),
    await archiveName(db, number, customer.name, device, takenAt),
  );
  const escrow = agreed.escrow ? await escrowRecipient(db) : null;
  if (agreed.escrow && escrow === null) throw new Failure('escrow-missing');
  const backupId = randomUUID();
  const { family, familyName, kind, model, name, serial, osName, osVersion } = device;
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'backup',
      locks: [deviceLock(serial), archiveLock(place.archive)],
      phase: 'listing',
      ticketId: ticket.id,
      deviceId: null,
      deviceName: name,
      archiveId: place.archive,
      backupId,
      startedBy: technicianId,
      action: 'backup-started',
      what: `Taking over what was recovered: ${formatBytes(expected.bytes)} from ${rackName} onto ${place.rackName}.`,
      input: {
        kind: 'backup',
        recovered: path,
        rackId: place.rackId,
        folder: place.folder,
        folderName: basename(place.folder),
        archive: place.archive,
        isNew: true,
        backup: backupId,
        takenAt,
        ticket: number,
        device: { family, familyName, kind, model, name, serial, osName, osVersion },
        // No revision of the device: nothing may ever be erased on the strength of this backup.
        contentRevision: '',
        expected,
        scope: { mode: 'everything', encrypted: true, everything: false },
        choice: {},
        coverage: recoveredCoverage(expected),
        ...(escrow === null ? {} : { escrow }),
        passwordHolder: wanted.passwordHolder,
        reminder: wanted.reminder,
        ticketId: ticket.id,
        knownDeviceId: device.id,
      },
    },
    wanted.password,
  );
}
