import { z } from 'zod';
import type { DataClass } from '../device/index.js';
import { fieldIds } from '../records/fields.js';
import { conflictRules, syncDirections } from '../merge/rules.js';
import {
  itemCountSchema,
  linkDeviceSchema,
  serialTailSchema,
  ticketNumberSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** What can be kept in step: an address book, a calendar, tasks, memos. */
export const syncedKinds = ['contacts', 'events', 'tasks', 'notes'] as const;
export type SyncedKind = (typeof syncedKinds)[number];
/** Of which class each is on a device. */
export const syncedClasses = {
  contacts: 'contacts',
  events: 'calendar',
  tasks: 'tasks',
  notes: 'notes',
} as const satisfies Record<SyncedKind, DataClass>;

const waySchema = z.object({
  direction: z.enum(syncDirections),
  /** Whose word counts where both sides changed the same. */
  rule: z.enum(conflictRules),
  /** Parts that each side keeps to itself. */
  without: z.array(z.enum(fieldIds)).max(fieldIds.length).default([]),
});
/** Which books are kept in step, each as what it is there for, and how. What is new on the device goes into the first of its kind. */
export const syncSetupSchema = z.object({
  books: z
    .array(z.object({ id: z.string().max(1000), kind: z.enum(syncedKinds) }))
    .min(1)
    .max(20),
  ways: z.record(z.enum(syncedKinds), waySchema),
});
export type SyncSetup = z.infer<typeof syncSetupSchema>;

const stepsSchema = z.object({
  add: itemCountSchema,
  change: itemCountSchema,
  remove: itemCountSchema,
});
/** What becomes of one kind on both sides. */
const mergedKindSchema = z.object({
  kind: z.enum(syncedKinds),
  /** As they were on both. */
  same: itemCountSchema,
  device: stepsSchema,
  partner: stepsSchema,
  /** Both sides changed it, and nobody has decided. */
  open: itemCountSchema,
  /** Things that a side keeps shorter than the other has them. */
  aside: z
    .object({ device: itemCountSchema, partner: itemCountSchema })
    .default({ device: 0, partner: 0 }),
  /** Sides of which more would go than anybody removes at once. */
  tooMuch: z.array(z.enum(['device', 'partner'])),
});
export type MergedKindTold = z.infer<typeof mergedKindSchema>;

/** A device's contacts and calendar are kept in step with the customer's own; or it is only found out what that would do. */
export const sync = defineOperation({
  kind: 'sync',
  name: 'Organiser sync',
  start: {
    path: '/tickets/:number/syncs',
    summary: 'Keep a device in step with an address book and calendars that were opened before.',
    params: z.object({ number: ticketNumberSchema }),
    body: z.object({
      deviceId: linkDeviceSchema,
      /** The customer's server, as it was opened. */
      partner: z.uuid(),
      setup: syncSetupSchema,
      /** Null: nothing is written, and what would become of everything is found out. */
      serialTail: serialTailSchema.nullable(),
      /** That much is removed on purpose. */
      removesMeant: z.boolean().default(false),
      /** What was written last is taken back instead, where nobody changed it since. */
      undoes: z.boolean().default(false),
    }),
  },
  permission: 'restore',
  triesPassword: false,
  about: { device: 'always', archive: 'never', backup: 'never' },
  version: 1,
  input: z.object({
    serial: z.string(),
    family: z.string(),
    /** Which server that is, and what is in it, stands nowhere but in the memory of the work process. */
    partner: z.uuid(),
    writes: z.boolean(),
    removesMeant: z.boolean(),
    undoes: z.boolean(),
    /** By itself: both sides are read first, what waits for a word goes on waiting, and the other side is forgotten after. */
    regular: z.boolean().default(false),
    /** What the device’s contents were when it began. */
    revision: z.string().nullable().default(null),
    /** The other device, where it is kept in step with one. */
    other: z.object({ deviceId: linkDeviceSchema, serial: z.string() }).nullable().default(null),
  }),
  result: outcome({ kinds: z.array(mergedKindSchema), wrote: z.boolean() }),
  phases: {
    looking: 'Reading what is on the device',
    asking: 'Reading the customer’s server',
    sending: 'Writing on both sides',
    comparing: 'Reading both back',
  },
  firstPhase: 'looking',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {
    safe: 'What was written on either side is there, each entry whole.',
    next: 'Open the customer’s server again and start once more: nothing comes twice.',
  },
  ifStopped: {
    safe: 'What was written on either side is there, each entry whole.',
    next: 'Start again when it suits: nothing comes twice.',
  },
});
