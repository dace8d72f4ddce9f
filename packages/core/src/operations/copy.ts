import { z } from 'zod';
import {
  archiveIdSchema,
  byteCountSchema,
  copyIdSchema,
  itemCountSchema,
  rackIdSchema,
  rackNameSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** What a copy will be, noted before it is decided on its medium. */
const copiedSchema = z.object({
  generation: z.int().min(0),
  digest: z.string(),
  storedBytes: byteCountSchema,
  sent: z.object({ files: itemCountSchema, bytes: byteCountSchema }),
  readBackMs: z.int(),
  durationMs: z.int(),
});
export type CopiedArchive = z.infer<typeof copiedSchema>;

export const copyArchive = defineOperation({
  kind: 'copy',
  name: 'Copy',
  start: {
    path: '/archives/:id/copies',
    summary: 'Copy an archive onto another rack, or bring the copy that lies there up to date.',
    params: z.object({ id: archiveIdSchema }),
    body: z.object({ rackId: rackIdSchema }),
  },
  permission: 'copy',
  triesPassword: false,
  about: { device: 'never', archive: 'always', backup: 'never' },
  version: 1,
  input: z.object({
    /** The copy that is copied. */
    copyId: copyIdSchema,
    /** Where it goes: its rack, and the archive's name there. */
    to: z.object({ rackId: rackIdSchema, folder: rackNameSchema }),
    /** The name of that rack when it began. */
    rackName: z.string(),
    /** Whether the shop's escrow may still open what is copied. */
    hasEscrow: z.boolean(),
    copied: copiedSchema.optional(),
  }),
  result: outcome({
    /** Where it went. */
    rackName: z.string(),
    /** What was not there before. */
    sentBytes: byteCountSchema,
    storedBytes: byteCountSchema,
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: { copying: 'Copying what is not there', 'reading-back': 'Reading back from the rack' },
  firstPhase: 'copying',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: true,
  ifCut: {
    safe: 'What was copied is not called a copy before it was read back; the archive is as it was.',
    next: 'Copy it again: what was sent is not sent a second time.',
  },
  ifStopped: {
    safe: 'What was copied is not called a copy before it was read back; the archive is as it was.',
    next: 'Copy it again whenever there is time: what was sent is not sent a second time.',
  },
});
