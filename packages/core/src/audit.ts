import { operationKinds, type OperationKind } from './operations/index.js';

/** What goes on record, beside the beginning of each kind of long work; in the groups in which people look for it. */
const groups = {
  'signing-in': {
    name: 'Signing in',
    actions: [
      ...(['sign-in', 'sign-out', 'sign-in-refused', 'sessions-ended'] as const),
      ...(['own-password-changed', 'second-factor-set', 'second-factor-dropped'] as const),
      ...(['passkey-added', 'passkey-dropped', 'pin-set', 'unlocked'] as const),
    ],
  },
  shop: {
    name: 'The shop and its people',
    actions: [
      ...(['shop-begun', 'person-added', 'person-changed', 'person-left'] as const),
      ...(['role-added', 'role-changed', 'role-dropped'] as const),
      ...([
        'settings-changed',
        'audit-exported',
        'recovery-key-made',
        'catalogue-saved',
        'network-changed',
      ] as const),
    ],
  },
  tickets: {
    name: 'Tickets',
    actions: [
      ...([
        'ticket-opened',
        'agreement',
        'step-settled',
        'device-tied',
        'ticket-closed',
        'ticket-reopened',
      ] as const),
      ...(['contents-listed', 'plan-saved', 'schedule-changed'] as const),
    ],
  },
  work: {
    name: 'Work on devices and archives',
    actions: [
      ...(['pause-asked', 'stop-asked', 'operation-ended', 'update-started'] as const),
      ...(['storage-connected', 'storage-let-go', 'partner-opened'] as const),
      ...(['backup-continued', 'backup-discarded', 'move-continued', 'move-given-up'] as const),
    ],
  },
  secrets: {
    name: 'Passwords and escrow',
    actions: [
      ...(['desk-opened', 'desk-seen', 'desk-filled', 'wrong-password'] as const),
      ...(['password-changed', 'escrow-set-up', 'escrow-opened', 'escrow-refused'] as const),
      'escrow-withdrawn' as const,
    ],
  },
  looking: {
    name: 'Looking inside',
    actions: [
      'look-in-begun',
      'look-in-ended',
      'look-compared',
      'crossing-looked-at',
      'look-taken-out',
      'extract-fetched',
      'package-given',
    ] as const,
  },
  racks: {
    name: 'Racks',
    actions: ['rack-added', 'rack-changed', 'rack-retired'] as const,
  },
  keeping: {
    name: 'Keeping and destroying',
    actions: [
      'kept-longer',
      'held',
      'hold-lifted',
      'destroyed',
      'names-forgotten',
      'customer-data-taken-out',
    ] as const,
  },
} as const satisfies Record<string, { name: string; actions: readonly string[] }>;

export type AuditGroup = keyof typeof groups;
export const auditGroupIds = Object.keys(groups) as [AuditGroup, ...AuditGroup[]];
export const auditGroupName = (group: AuditGroup): string => groups[group].name;

export type AuditAction =
  | (typeof groups)[AuditGroup]['actions'][number]
  | `${OperationKind}-started`;

const started = operationKinds.map((kind) => `${kind}-started` as const);

/** What belongs to a group. */
export const auditActionsOf = (group: AuditGroup): readonly AuditAction[] =>
  group === 'work' ? [...groups.work.actions, ...started] : groups[group].actions;

/** Everything that goes on record. */
export const auditActions: readonly AuditAction[] = auditGroupIds.flatMap(auditActionsOf);
