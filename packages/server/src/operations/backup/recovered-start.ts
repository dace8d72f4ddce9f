import { randomUUID } from 'node:crypto';
import {
  archiveLock,
  deviceLock,
  Failure,
  formatBytes,
  recoveredCoverage,
  type NewRecovered,
  backupIdSchema,
} from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { agreedOf } from '../../agreements/index.js';
import { archiveName } from '../../archives/index.js';
import { mustBeFree } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { escrowRecipient } from '../../escrow/index.js';
import { measureRecovered, waiting } from '../../racks/index.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import { newPlace, STORED_OVERHEAD } from './places.js';
import { backedUp } from './start.js';
import { mustBeStrong } from '../../kernel/strong-password.js';

/**
 * Takes a recovered folder over, as the first backup of a new archive of the ticket's device.
 * @throws Failure `not-agreed`, `not-found`, `nothing-chosen`, `rack-full`, a weak password's
 */
export async function takeOverRecovered(
  context: Context,
  number: string,
  asked: NewRecovered,
): Promise<Operation> {
  const { db } = context;
  const { ticket, device, customer } = await ticketForWork(db, number);
  return context.desks.use(device.id, asked, 'backup', 'hold', async (wanted) => {
    const { from, password, passwordHolder, reminder } = wanted;
    const agreed = await agreedOf(db, ticket.id);
    if (!agreed.backup) {
      throw new Failure('not-agreed', { what: 'The customer has not agreed to a backup.' });
    }
    await mustBeStrong(password);
    await mustBeFree(db, device.serial);
    const { rackName } = await waiting(db, from.rackId, from.name);
    const expected = await measureRecovered(db, from.rackId, from.name);
    if (expected.items === 0) {
      throw new Failure('nothing-chosen', {
        what: 'That folder is empty.',
        next: 'Choose another.',
      });
    }
    const takenAt = context.clock.now().toISOString();
    const place = await newPlace(
      db,
      wanted.rackId,
      Math.ceil(expected.bytes * STORED_OVERHEAD),
      await archiveName(db, number, customer.name, device, takenAt),
    );
    const escrow = agreed.escrow ? await escrowRecipient(db) : null;
    if (agreed.escrow && escrow === null) throw new Failure('escrow-missing');
    const backup = backupIdSchema.parse(randomUUID());
    const { rackId, folder, archive } = place;
    return startOperation(
      context,
      {
        kind: 'backup',
        locks: [deviceLock(device.serial), archiveLock(archive, 'update')],
        ticketId: ticket.id,
        ticketNumber: number,
        deviceId: null,
        deviceName: device.name,
        archiveId: archive,
        backupId: backup,
        what: `Taking over what was recovered: ${formatBytes(expected.bytes)} from ${rackName} onto ${place.rackName}.`,
        input: {
          ...{ rackId, folder, archive, backup, takenAt, expected, passwordHolder, reminder },
          recovered: from,
          isNew: true,
          ticket: number,
          ticketId: ticket.id,
          device: backedUp(device),
          knownDeviceId: device.id,
          // No revision of the device: nothing may ever be erased on the strength of this backup.
          contentRevision: '',
          scope: { mode: 'everything', encrypted: true, everything: false },
          choice: {},
          coverage: recoveredCoverage(expected),
          ...(escrow === null ? {} : { escrow }),
          continued: false,
          followed: false,
        },
      },
      { password },
    );
  });
}
