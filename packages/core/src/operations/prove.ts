import { z } from 'zod';
import { proofLevelSchema } from '../archive/index.js';
import { amountSchema, byteCountSchema, backupIdSchema, copyIdSchema } from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const prove = defineOperation({
  kind: 'prove',
  name: 'Proof',
  start: {
    path: '/backups/:id/proofs',
    summary:
      'Look at a backup’s archive as closely as asked. A wrong password is answered before anything else happens.',
    params: z.object({ id: backupIdSchema }),
    body: z.object({
      level: proofLevelSchema,
      /** What the customer typed on their own page, in place of a password here. */
      fromDesk: z.boolean().default(false),
      /** Empty for the level `bytes`, which needs none. */
      password: z.string().max(1024),
    }),
  },
  permission: 'prove',
  triesPassword: true,
  about: { device: 'never', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({ copyId: copyIdSchema, level: proofLevelSchema, expected: amountSchema }),
  result: outcome({
    storedBytes: byteCountSchema,
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: {
    opening: 'Opening with the password',
    checking: 'Checking stored bytes',
    reading: 'Reading items back',
  },
  firstPhase: 'opening',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {},
  ifStopped: {},
});
