import {
  knownOfBackup,
  proposedBackup,
  troublesOf,
  type BackupId,
  type DeviceId,
} from '@bright-cellar/core';
import type { RestoreChoices } from '@bright-cellar/contract';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { backupForWork, backupsOf, copiesOf, presentCopies } from '../../archives/index.js';
import type { Database } from '../../database/connect.js';
import { archives, backups, tickets } from '../../database/schema.js';
import { ratesOf } from '../../moves/index.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';

type Reading = Pick<Context, 'db'>;

/** Of the device that a backup is of. @throws Failure `not-found` */
export async function choicesBeside(context: Reading, backupId: BackupId): Promise<RestoreChoices> {
  const { device, ticket } = await backupForWork(context.db, backupId);
  return restoreChoices(context, device.id, ticket.customerId);
}

/** Of a ticket’s device. @throws Failure `not-found` */
export async function choicesForTicket(context: Reading, number: string): Promise<RestoreChoices> {
  const { device, ticket } = await ticketForWork(context.db, number);
  return restoreChoices(context, device.id, ticket.customerId);
}

/** Every backup of a customer's device, in all archives, newest first, and which of them should go back. Nothing of who had it before. */
async function restoreChoices(
  { db }: Reading,
  deviceId: DeviceId,
  customerId: string,
): Promise<RestoreChoices> {
  const of = await db
    .select({ id: archives.id, ticketNumber: tickets.number })
    .from(archives)
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(
      and(
        ...[eq(archives.deviceId, deviceId), eq(tickets.customerId, customerId)],
        isNull(archives.disposedAt),
      ),
    )
    .orderBy(desc(archives.createdAt));
  const { reads } = await ratesOf(db);
  const takenFor = await ticketsOf(db, deviceId);
  const all = await Promise.all(
    of.map(async ({ id, ticketNumber }) => {
      const here = new Set((await presentCopies(db, id)).map((copy) => copy.id));
      const lying = await copiesOf(db, id);
      return (await backupsOf(db, [id])).map((backup) => {
        const places = lying.map(({ id: copyId, rackId, rackName }) => {
          const { low, high } = reads(rackId);
          const ms = (rate: number) => (backup.bytes / rate) * 1000;
          return { rackName, isHere: here.has(copyId), readMs: { low: ms(high), high: ms(low) } };
        });
        const { provenAt, damaged } = knownOfBackup(backup.proofs);
        return {
          ...{ id: backup.id, archiveId: id, takenAt: backup.takenAt, places },
          ticketNumber: takenFor.get(backup.id) ?? ticketNumber,
          ...{ items: backup.items, bytes: backup.bytes, provenAt, damaged },
          ...{ everything: backup.scope.everything, isHere: here.size > 0 },
        };
      });
    }),
  );
  const newestFirst = all.flat().toSorted((a, b) => (a.takenAt < b.takenAt ? 1 : -1));
  const { id: proposed, passedOver } = proposedBackup(newestFirst);
  return {
    proposed,
    passedOver,
    backups: newestFirst.map((backup) => ({ ...backup, troubles: troublesOf(backup) })),
  };
}

/** For which visit each backup of a device was taken: one archive holds those of several. */
async function ticketsOf(db: Database, deviceId: DeviceId): Promise<Map<string, string>> {
  const rows = await db
    .select({ id: backups.id, number: tickets.number })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(tickets, eq(tickets.id, backups.ticketId))
    .where(eq(archives.deviceId, deviceId));
  return new Map(rows.map(({ id, number }) => [id, number]));
}
