import { z } from 'zod';
import {
  choiceSchema,
  backupScopeSchema,
  planModes,
  coverageLineSchema,
  failedItemsSchema,
} from '../backup/index.js';
import { backedUpDeviceSchema, committedBackupSchema } from '../archive/index.js';
import { classAmountSchema } from '../device/index.js';
import {
  amountSchema,
  byteCountSchema,
  idSchema,
  instantSchema,
  itemCountSchema,
  passwordHolderShape,
  rackNameSchema,
  ticketNumberSchema,
  deviceIdSchema,
  archiveIdSchema,
  backupIdSchema,
  rackIdSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const newBackupSchema = z.object({
  mode: z.enum(planModes),
  /** Looked at where the mode is `chosen`. */
  choice: choiceSchema,
  encrypted: z.boolean(),
  /** Ids of conditions that are not met and whose price somebody accepted. */
  accepted: z.array(z.string().max(80)).max(20),
  /** Where a new archive goes; null when it goes into one that is there. */
  rackId: rackIdSchema.nullable(),
  /** The archive that it goes into, with that archive’s password; null for a new one on the rack. */
  archiveId: archiveIdSchema.nullable(),
  /** The customer typed it on their own page: it is not in this request. */
  fromDesk: z.boolean(),
  /** Empty where the customer typed it on their own page, and where the backup is not encrypted. */
  password: z.string().max(1024),
  ...passwordHolderShape,
});
export type NewBackup = z.infer<typeof newBackupSchema>;

/** What somebody recovered from a device, taken over from the folder that it came in. */
export const newRecoveredSchema = newBackupSchema
  .pick({ fromDesk: true, password: true, passwordHolder: true, reminder: true })
  .extend({ from: z.object({ rackId: rackIdSchema, name: rackNameSchema }), rackId: rackIdSchema });
export type NewRecovered = z.infer<typeof newRecoveredSchema>;

/** Written when all is on the medium and nothing is decided: enough to finish the record after a crash. */
export const committingSchema = z.object({
  committed: committedBackupSchema,
  classes: z.array(classAmountSchema),
  failed: z.array(failedItemsSchema),
  durationMs: z.int(),
  workedMs: z.int().nullable(),
});
export type Committing = z.infer<typeof committingSchema>;

export const backup = defineOperation({
  kind: 'backup',
  name: 'Backup',
  start: {
    path: '/tickets/:number/backups',
    summary: 'Take a backup of the ticket’s device.',
    params: z.object({ number: ticketNumberSchema }),
    body: newBackupSchema,
  },
  permission: 'back-up',
  triesPassword: true,
  about: { device: 'sometimes', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({
    rackId: rackIdSchema,
    /** The archive's name on the rack. */
    folder: z.string(),
    archive: archiveIdSchema,
    /** Whether the archive begins with this backup. */
    isNew: z.boolean(),
    backup: backupIdSchema,
    takenAt: instantSchema,
    ticket: z.string(),
    ticketId: idSchema,
    device: backedUpDeviceSchema,
    /** The device in the catalogue. */
    knownDeviceId: deviceIdSchema,
    contentRevision: z.string(),
    expected: amountSchema,
    /** What is to be taken, in full. */
    choice: choiceSchema,
    scope: backupScopeSchema,
    coverage: z.array(coverageLineSchema),
    /** A folder that somebody recovered, in place of the device itself. */
    recovered: z.object({ rackId: rackIdSchema, name: z.string() }).optional(),
    /** `age1…`, where the customer agreed to escrow. */
    escrow: z.string().optional(),
    passwordHolder: z.string(),
    reminder: z.string(),
    /** It goes on from an earlier try: its time says nothing of what such a backup takes. */
    continued: z.boolean().default(false),
    /** It is sent onto another device while it is taken. */
    followed: z.boolean().default(false),
    committing: committingSchema.optional(),
  }),
  result: outcome({
    storedBytes: byteCountSchema,
    /** What the archive did not have before. */
    newItems: itemCountSchema,
    newBytes: byteCountSchema,
    /** Without what it waited for people and cables; null where it went on from an earlier try. */
    workedMs: z.int().nullable(),
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: {
    listing: 'Comparing with what is kept',
    taking: 'Taking items',
    reviewing: 'Reading again what changed meanwhile',
    committing: 'Making it durable',
  },
  firstPhase: 'listing',
  unstoppable: [],
  pausable: ['listing', 'taking', 'reviewing'],
  continues: {
    needsPassword: true,
    left: 'of it are safe on the rack and are not sent again.',
    giveUp: 'Give it up and free the space',
  },
  leavesBench: false,
  givesWay: false,
  ifCut: {
    safe: 'What was taken is kept on the rack; what was committed before is whole.',
    next: 'Let the backup go on.',
  },
  ifStopped: {
    safe: 'What was taken is kept on the rack; what was committed before is whole.',
    next: 'Let the backup go on, or give it up.',
  },
});
