import { z } from 'zod';
import { archiveIdSchema, idSchema, itemCountSchema } from '../values/index.js';
import { DESTROY_WORD } from '../keep/index.js';
import { defineOperation, outcome } from './define.js';

export const dispose = defineOperation({
  kind: 'dispose',
  name: 'Disposal',
  start: {
    path: '/archives/:id/disposals',
    summary:
      'Destroy an archive: its keys first, then every copy; those that are away when they are seen.',
    params: z.object({ id: archiveIdSchema }),
    body: z.object({
      /** Typed off the ticket. */
      typedTicket: z.string().max(12),
      typedWord: z.literal(DESTROY_WORD),
      reason: z.string().trim().min(1, 'Say why.').max(300),
    }),
  },
  permission: 'dispose',
  triesPassword: false,
  about: { device: 'never', archive: 'always', backup: 'never' },
  version: 1,
  input: z.object({ disposalId: idSchema }),
  result: outcome({
    /** Copies that are gone, and those on racks that are away: they go when those are seen. */
    gone: itemCountSchema,
    owed: itemCountSchema,
  }),
  phases: { destroying: 'Destroying copies' },
  firstPhase: 'destroying',
  unstoppable: 'all',
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {
    safe: 'It was decided: what is left of the archive is owed, and nobody takes it for a copy.',
    next: 'It goes on by itself.',
  },
  ifStopped: {},
});
