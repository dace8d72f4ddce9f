import type { OperationKind } from '@bright-cellar/core';

/** What goes on record: who did it, when, about which ticket, and a sentence. */
export type AuditAction =
  | `${OperationKind}-started`
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
  | 'escrow-set-up'
  | 'escrow-opened'
  | 'stop-asked'
  | 'backup-continued'
  | 'backup-discarded'
  | 'password-changed'
  | 'wrong-password'
  | 'operation-ended';
