import {
  archiveLock,
  deviceLock,
  Failure,
  OPEN_PASSWORD,
  restoreReadiness,
  totalOf,
  type NewMigration,
} from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { operationRow, startOperation } from '../../engine/index.js';
import { mustBeAllowed } from '../../kernel/actor.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import { beginBackup } from '../backup/start.js';

/**
 * Old to new: a backup of the ticket's device is started, and with it a restore that sends it onto another device while it is
 * taken. Nothing is started unless both may be.
 */
export async function startMigration(
  context: Context,
  number: string,
  asked: NewMigration,
): Promise<Operation> {
  const { db, bench } = context;
  mustBeAllowed(context.actor, 'back-up');
  const { ticket, device } = await ticketForWork(db, number);
  if (asked.mode !== 'everything') {
    throw new Failure('input-not-valid', {
      what: 'Only a backup of everything goes onto another device while it is taken.',
      next: 'Take everything; or take the backup first, and send a part of it afterwards.',
    });
  }
  const source = await bench.presentDevice(device.serial);
  const target = await bench.freshFacts(asked.onto.deviceId);
  await mustBeFree(db, target.serial);
  const bytes = totalOf(source.content ?? []).bytes;
  const { family, familyName, osVersion } = source;
  mustBeReady(restoreReadiness(target, { family, familyName, osVersion, bytes }));
  if (!target.serial.toUpperCase().endsWith(asked.onto.serialTail.toUpperCase())) {
    throw new Failure('wrong-serial');
  }
  const action = asked.archiveId === null ? 'backup' : 'further';
  return context.desks.use(device.id, asked, action, 'hold', async (wanted) => {
    const { id } = await beginBackup(context, number, wanted, true);
    const row = await operationRow(db, id);
    if (row.kind !== 'backup') throw new Error('a backup that is none');
    const onto = `${target.familyName} ${target.model} ${target.serial}`;
    return startOperation(
      context,
      {
        kind: 'restore',
        locks: [deviceLock(target.serial), archiveLock(row.archiveId, 'shared')],
        ticketId: ticket.id,
        ticketNumber: number,
        deviceId: target.id,
        deviceName: onto,
        archiveId: row.archiveId,
        backupId: row.backupId,
        what: `Old to new: it goes onto ${onto} while the backup is taken.`,
        input: {
          copyId: null,
          follows: id,
          serial: target.serial,
          family,
          osVersion,
          expected: row.input.expected,
        },
      },
      { password: row.input.scope.encrypted ? wanted.password : OPEN_PASSWORD },
    );
  });
}
