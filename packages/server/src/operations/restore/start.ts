import {
  archiveLock,
  crossingReadiness,
  deviceLock,
  Failure,
  restoreReadiness,
  type ChosenPart,
  type Condition,
  type DeviceFacts,
  type LinkDeviceId,
  type BackupId,
} from '@bright-cellar/core';
import type { Backup } from '@bright-cellar/contract';
import { backupForWork, backupsOf, mustOpen, presentCopy } from '../../archives/index.js';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { lastPartAsked } from './last-part.js';
import type { Context } from '../../shop.js';
import type { Start } from '../start.js';

/** Whether a device can take a backup, condition by condition. */
export async function restoreTarget(
  { db, bench }: Context,
  backupId: BackupId,
  deviceId: LinkDeviceId,
): Promise<{
  backup: Backup;
  conditions: Condition[];
  crossing: Condition[];
  isSameFamily: boolean;
  lastPart: ChosenPart | null;
  facts: DeviceFacts;
}> {
  const { backup: row, device } = await backupForWork(db, backupId);
  const facts = await bench.freshFacts(deviceId);
  const [backup] = (await backupsOf(db, [row.archiveId])).filter((b) => b.id === backupId);
  if (!backup) throw new Failure('not-found');
  const conditions = restoreReadiness(facts, {
    family: device.family,
    familyName: device.familyName,
    osVersion: row.osVersion,
    bytes: row.bytes,
  });
  const isSameFamily = facts.family === device.family;
  const lastPart = await lastPartAsked(db, backupId, facts.serial);
  return { backup, conditions, crossing: crossingReadiness(facts), isSameFamily, lastPart, facts };
}

export const startRestore: Start<'restore'> = async (context, { id: backupId }, body) => {
  const { db } = context;
  const { backup, archive, device, ticket } = await backupForWork(db, backupId);
  return context.desks.use(device.id, body, 'restore', 'forget', async (wanted) => {
    const { conditions, facts } = await restoreTarget(context, backupId, wanted.deviceId);
    await mustBeFree(db, facts.serial);
    mustBeReady(conditions);
    if (!facts.serial.toUpperCase().endsWith(wanted.serialTail.toUpperCase())) {
      throw new Failure('wrong-serial');
    }
    const copy = await presentCopy(db, archive.id);
    await mustOpen(context, copy, wanted.password, ticket.id);
    const target = `${facts.familyName} ${facts.model} ${facts.serial}`;
    return startOperation(
      context,
      {
        kind: 'restore',
        locks: [deviceLock(facts.serial), archiveLock(archive.id, 'shared')],
        ticketId: ticket.id,
        ticketNumber: ticket.number,
        deviceId: facts.id,
        deviceName: target,
        archiveId: archive.id,
        backupId,
        what: `Restore started onto ${target}.`,
        input: {
          copyId: copy.id,
          serial: facts.serial,
          family: device.family,
          osVersion: backup.osVersion,
          expected: { items: backup.items, bytes: backup.bytes },
        },
      },
      { password: wanted.password },
    );
  });
};
