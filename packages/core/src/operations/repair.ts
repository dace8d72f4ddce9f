import { z } from 'zod';
import { byteCountSchema, copyIdSchema, itemCountSchema } from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const repair = defineOperation({
  kind: 'repair',
  name: 'Repair',
  start: {
    path: '/copies/:id/repairs',
    summary: 'Replace what is damaged in a copy from another copy, and read it back.',
    params: z.object({ id: copyIdSchema }),
    body: z.object({}),
  },
  permission: 'copy',
  triesPassword: false,
  about: { device: 'never', archive: 'always', backup: 'never' },
  version: 1,
  input: z.object({
    copyId: copyIdSchema,
    /** The copy that is whole. */
    fromId: copyIdSchema,
    /** Names of their racks when it began. */
    rackName: z.string(),
    fromName: z.string(),
    storedBytes: byteCountSchema,
  }),
  result: outcome({
    rackName: z.string(),
    fromName: z.string(),
    /** Files that were replaced. */
    repaired: itemCountSchema,
    storedBytes: byteCountSchema,
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: { repairing: 'Replacing what is damaged', checking: 'Reading it back' },
  firstPhase: 'repairing',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {
    safe: 'What was whole was not touched, and what was replaced is whole. The other copy is as it was.',
    next: 'Repair it again: it goes on with what is still damaged.',
  },
  ifStopped: {
    safe: 'What was whole was not touched, and what was replaced is whole. The other copy is as it was.',
    next: 'Repair it again whenever there is time.',
  },
});
