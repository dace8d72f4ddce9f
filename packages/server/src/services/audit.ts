import type { Database, Transaction } from '../database/connect.js';
import { desc, eq } from 'drizzle-orm';
import { audit, technicians, tickets } from '../database/schema.js';

export type AuditAction =
  | 'sign-in'
  | 'sign-out'
  | 'sign-in-refused'
  | 'sessions-ended'
  | 'own-password-changed'
  | 'desk-opened'
  | 'desk-seen'
  | 'desk-filled'
  | 'escrow-refused'
  | 'escrow-withdrawn'
  | 'ticket-opened'
  | 'agreement'
  | 'step-settled'
  | 'device-tied'
  | 'ticket-closed'
  | 'contents-listed'
  | 'plan-saved'
  | 'pause-asked'
  | 'settings-changed'
  | 'schedule-changed'
  | 'update-started'
  | 'extract-started'
  | 'escrow-set-up'
  | 'escrow-opened'
  | 'backup-started'
  | 'proof-started'
  | 'restore-started'
  | 'erase-started'
  | 'stop-asked'
  | 'backup-continued'
  | 'backup-discarded'
  | 'export-started'
  | 'import-started'
  | 'password-changed'
  | 'wrong-password'
  | 'operation-ended';

/** Notes who did what. `what` is a sentence for people; it holds no customer's file names and no password. */
export async function noteAudit(
  db: Database | Transaction,
  entry: {
    technicianId: string | null;
    ticketId?: string | null;
    action: AuditAction;
    what: string;
  },
): Promise<void> {
  await db.insert(audit).values({
    at: new Date(),
    technicianId: entry.technicianId,
    ticketId: entry.ticketId ?? null,
    action: entry.action,
    what: entry.what,
  });
}

/** Notes something about a device that belongs to no request of anybody's, on its newest ticket. @param by a technician's name */
export async function noteForDevice(
  db: Database,
  deviceId: string,
  entry: { action: AuditAction; what: string; by: string | null },
): Promise<void> {
  const [ticket] = await db
    .select({ id: tickets.id })
    .from(tickets)
    .where(eq(tickets.deviceId, deviceId))
    .orderBy(desc(tickets.openedAt))
    .limit(1);
  const [technician] = entry.by
    ? await db
        .select({ id: technicians.id })
        .from(technicians)
        .where(eq(technicians.name, entry.by))
    : [];
  await noteAudit(db, {
    technicianId: technician?.id ?? null,
    ticketId: ticket?.id ?? null,
    action: entry.action,
    what: entry.what,
  });
}
