import { z } from 'zod';
import { byteCountSchema, copyIdSchema } from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const check = defineOperation({
  kind: 'check',
  name: 'Check',
  start: {
    path: '/copies/:id/checks',
    summary: 'Read every stored byte of one copy back from its rack. Needs no password.',
    params: z.object({ id: copyIdSchema }),
    body: z.object({}),
  },
  permission: 'prove',
  triesPassword: false,
  about: { device: 'never', archive: 'always', backup: 'never' },
  version: 1,
  input: z.object({
    copyId: copyIdSchema,
    /** The name of its rack when it began. */
    rackName: z.string(),
  }),
  result: outcome({
    rackName: z.string(),
    storedBytes: byteCountSchema,
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: { checking: 'Reading stored bytes back' },
  firstPhase: 'checking',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: true,
  ifCut: { safe: 'Nothing was changed.', next: 'Check it again.' },
  ifStopped: { safe: 'Nothing was changed.', next: 'Check it again whenever there is time.' },
});
