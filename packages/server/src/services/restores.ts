import { Failure, restoreReadiness, type Condition, type DeviceFacts } from '@bright-cellar/core';
import type { Backup, Operation } from '@bright-cellar/contract';
import { backupsOf, presentCopy } from './archives.js';
import { archiveLock, deviceLock, startOperation } from './operations.js';
import { backupForWork, mustBeFree, mustBeReady, mustOpen, type Shop } from './shop.js';

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
  mustBeReady(conditions);
  if (!facts.serial.toUpperCase().endsWith(wanted.serialTail.toUpperCase())) {
    throw new Failure('wrong-serial');
  }
  const copy = await presentCopy(db, archive.id);
  await mustOpen(shop, copy.path, wanted.password, ticket.id, technicianId);
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'restore',
      locks: [deviceLock(facts.serial), archiveLock(archive.id)],
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
        copyId: copy.id,
        serial: facts.serial,
        family: device.family,
        osVersion: backup.osVersion,
        expected: { items: backup.items, bytes: backup.bytes },
      },
    },
    wanted.password,
  );
}
