import { z } from 'zod';
import {
  archiveIdSchema,
  backupIdSchema,
  byteCountSchema,
  copyIdSchema,
  itemCountSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const prune = defineOperation({
  kind: 'prune',
  name: 'Pruning',
  start: {
    path: '/archives/:id/prunings',
    summary: 'Take backups out of an archive and give their room back; what stays is proven after.',
    params: z.object({ id: archiveIdSchema }),
    body: z.object({
      /** Those that stay. */
      keep: z.array(backupIdSchema).min(1, 'One backup stays at least.'),
      password: z.string().min(1, 'Type the password.').max(1024),
    }),
  },
  permission: 'prune',
  triesPassword: true,
  about: { device: 'never', archive: 'always', backup: 'never' },
  version: 1,
  input: z.object({
    copyId: copyIdSchema,
    /** The name of its rack when it began. */
    rackName: z.string(),
    keep: z.array(backupIdSchema),
    gone: z.array(backupIdSchema),
    /** What the copy will be, noted before it is decided on its medium. */
    pruned: z
      .object({ generation: z.int(), digest: z.string(), storedBytes: byteCountSchema })
      .optional(),
  }),
  result: outcome({
    rackName: z.string(),
    gone: itemCountSchema,
    freedBytes: byteCountSchema,
    storedBytes: byteCountSchema,
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: {
    pruning: 'Writing anew what stays',
    checking: 'Checking stored bytes',
    reading: 'Reading items back',
  },
  firstPhase: 'pruning',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {
    safe: 'The archive opens: it holds all of its backups, or those that were to stay.',
    next: 'Look at its backups; prune it again where they are all there, else prove it.',
  },
  ifStopped: {
    safe: 'The archive opens: it holds all of its backups, or those that were to stay.',
    next: 'Look at its backups; prune it again where they are all there, else prove it.',
  },
});
