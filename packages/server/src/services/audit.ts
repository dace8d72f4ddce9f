import type { Database, Transaction } from '../database/connect.js';
import { audit } from '../database/schema.js';

export type AuditAction =
  | 'sign-in'
  | 'sign-out'
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
