import {
  idSchema as id,
  proofLevelSchema,
  instantSchema as instant,
  proofOutcomes,
  byteCountSchema as byteCount,
  failedItemsSchema,
  classAmountSchema,
  backupScopeSchema,
  coverageLineSchema,
  copyStates,
  restoreTroubles,
  type RestoreTrouble,
} from '@bright-cellar/core';
import { z } from 'zod';
import { knownDeviceSchema } from './customers.js';

export const proofSchema = z.object({
  id,
  /** The copy that was looked at. */
  copyId: id,
  /** It speaks of a copy as it is now: in the state in which it was looked at. */
  current: z.boolean(),
  /** Its copy was moved or removed since. */
  gone: z.boolean(),
  level: proofLevelSchema,
  at: instant,
  by: z.string(),
  outcome: z.enum(proofOutcomes),
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  what: z.string(),
});

export type Proof = z.infer<typeof proofSchema>;

export const backupSchema = z.object({
  id,
  archiveId: id,
  takenAt: instant,
  takenBy: z.string(),
  osVersion: z.string(),
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  /** What the archive did not have before. */
  newItems: z.int(),
  newBytes: byteCount,
  durationMs: z.int(),
  digest: z.string(),
  failed: z.array(failedItemsSchema),
  classes: z.array(classAmountSchema),
  scope: backupScopeSchema,
  coverage: z.array(coverageLineSchema),
  proofs: z.array(proofSchema),
});

export type Backup = z.infer<typeof backupSchema>;

export const copySchema = z.object({
  id,
  rackId: id,
  rackName: z.string(),
  folder: z.string(),
  storedBytes: byteCount,
  /** Whether the folder is there right now. */
  present: z.boolean(),
  /** Whether it holds all that the archive holds; else it is an older state of it. */
  isNewest: z.boolean(),
  /** What the last look at it found, in the state that it is in. */
  state: z.enum(copyStates),
  checkedAt: instant.nullable(),
  checkedLevel: proofLevelSchema.nullable(),
});

/** A package that lies on a rack. */
export const packageSchema = z.object({
  rackId: id,
  rackName: z.string(),
  name: z.string(),
  bytes: byteCount,
  modified: instant,
});

export type Package = z.infer<typeof packageSchema>;

/** What all archives come to. */
export const archivesSummarySchema = z.object({
  archives: z.int(),
  storedBytes: byteCount,
  unproven: z.int(),
  /** The newest that is damaged; null when none is. */
  damaged: z.object({ id, deviceName: z.string() }).nullable(),
});

export type ArchivesSummary = z.infer<typeof archivesSummarySchema>;

export const archiveSorts = [
  'taken',
  'device',
  'serial',
  'customer',
  'ticket',
  'items',
  'bytes',
  'stored',
  'rack',
  'proof',
] as const;

export type ArchiveSort = (typeof archiveSorts)[number];

export const archiveRowSchema = z.object({
  id,
  ticketNumber: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  takenAt: instant,
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  rackName: z.string(),
  /** When a proof last found it whole; null when none did. */
  provenAt: instant.nullable(),
  damaged: z.boolean(),
});

export type ArchiveRow = z.infer<typeof archiveRowSchema>;

export const archiveSchema = archiveRowSchema.extend({
  passwordHolder: z.string(),
  encrypted: z.boolean(),
  /** Whether two people of the shop can open it together. */
  escrow: z.boolean(),
  reminder: z.string(),
  /** Somebody decided to destroy it: what became of it; null of any other. */
  disposal: z.object({ id, number: z.int(), doneAt: instant.nullable() }).nullable(),
  backups: z.array(backupSchema),
  copies: z.array(copySchema),
});

export type Archive = z.infer<typeof archiveSchema>;

const restoreTrouble = z.enum(
  Object.keys(restoreTroubles) as [RestoreTrouble, ...RestoreTrouble[]],
);

/** Every backup of one device, newest first, and which of them should go back. */
export const restoreChoicesSchema = z.object({
  /** The newest against which nothing speaks; null where something speaks against each. */
  proposed: id.nullable(),
  /** Newer than that, and what speaks against them. */
  passedOver: z.array(z.object({ id, trouble: restoreTrouble })),
  backups: z.array(
    z.object({
      id,
      archiveId: id,
      takenAt: instant,
      ticketNumber: z.string(),
      items: z.int(),
      bytes: byteCount,
      provenAt: instant.nullable(),
      troubles: z.array(restoreTrouble),
      places: z.array(
        z.object({
          rackName: z.string(),
          isHere: z.boolean(),
          /** How long it takes to read it there, by what that rack did before. */
          readMs: z.object({ low: z.number(), high: z.number() }),
        }),
      ),
    }),
  ),
});

export type RestoreChoices = z.infer<typeof restoreChoicesSchema>;
