import type { Field } from '../records/fields.js';
import type { MergedKind } from './fields.js';

/** Whose word counts where both sides changed the same. */
export const conflictRules = ['ask', 'device', 'partner', 'newer', 'both'] as const;
export type ConflictRule = (typeof conflictRules)[number];
/** What somebody decided of one of them. */
export const decisions = ['device', 'partner', 'both'] as const;
export type Decision = (typeof decisions)[number];

/** Parts that a side may keep to itself, by what they are parts of. */
export const sparableParts = {
  contacts: ['numbers', 'emails', 'addresses', 'birthday', 'organisation', 'note', 'picture'],
  events: ['place', 'note', 'alarms'],
  tasks: ['note', 'priority', 'alarms'],
  notes: [],
} as const satisfies Record<MergedKind, readonly Field[]>;

export const syncDirections = ['both', 'onto-device', 'off-device'] as const;
export type SyncDirection = (typeof syncDirections)[number];

/** Why two cards may be one person's, or not, each with what it weighs. Found by trying them on made sets with known pairs. */
export const personReasons = {
  'same-number': { weighs: 5, says: 'the same number' },
  /** While each has another that the other does not have. */
  'one-number': { weighs: 3, says: 'one number in common, and others' },
  /** Of an office, or a house. */
  'shared-number': { weighs: 1, says: 'a number that several have' },
  'same-mail': { weighs: 5, says: 'the same mail address' },
  'same-name': { weighs: 4, says: 'the same name' },
  'same-word': { weighs: 1, says: 'the same single name' },
  'alike-name': { weighs: 2, says: 'names that are alike' },
  'same-birthday': { weighs: 3, says: 'the same birthday' },
  'same-address': { weighs: 1.5, says: 'the same address' },
  'same-organisation': { weighs: 1, says: 'the same organisation' },
  'other-name': { weighs: -2.5, says: 'other names' },
  'other-birthday': { weighs: -7, says: 'other birthdays' },
  'other-numbers': { weighs: -0.5, says: 'other numbers' },
} as const;
export type PersonReason = keyof typeof personReasons;
export const personReasonIds = Object.keys(personReasons) as [PersonReason, ...PersonReason[]];
