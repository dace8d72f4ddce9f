import { Failure, stillUnmet, type Condition } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archives, backups, devices, tickets } from '../database/schema.js';
import type { OrderClient } from '../work/order-client.js';
import { noteAudit } from './audit.js';
import type { BenchWatch } from './bench.js';
import { deviceLock, isHeld } from './operations.js';

/** What starting any long work needs. Every rule that could be broken by a screen is judged here, from facts asked anew. */
export interface Shop {
  db: Database;
  bench: BenchWatch;
  orders: OrderClient;
}

/** @param accepted ids of conditions whose price somebody accepted. @throws Failure `device-not-ready`, `device-in-use`. */
export function mustBeReady(
  conditions: readonly Condition[],
  accepted: readonly string[] = [],
): void {
  const [unmet] = stillUnmet(conditions, accepted);
  if (!unmet) return;
  if (unmet.id === 'empty') throw new Failure('device-in-use', { next: unmet.remedy ?? '' });
  throw new Failure('device-not-ready', {
    what: `The device is not ready: ${unmet.label.toLowerCase()} is not met (${unmet.reading}).`,
    next: unmet.remedy ?? '',
  });
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

/** Nothing else may be running on the device. Its lock says so too; this says it before anything is asked. */
export async function mustBeFree(db: Database, serial: string): Promise<void> {
  if (await isHeld(db, deviceLock(serial))) throw new Failure('device-busy');
}
