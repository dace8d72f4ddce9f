import { z } from 'zod';
import {
  amountSchema,
  byteCountSchema,
  knownPasswordSchema,
  rackNameSchema,
  backupIdSchema,
  copyIdSchema,
  rackIdSchema,
} from '../values.js';
import { defineOperation, outcome } from './define.js';

export const exportPackage = defineOperation({
  kind: 'export',
  name: 'Export',
  start: {
    path: '/backups/:id/exports',
    summary: 'Write a backup as one file that opens without this program.',
    params: z.object({ id: backupIdSchema }),
    body: knownPasswordSchema.safeExtend({ rackId: rackIdSchema }),
  },
  permission: 'take-out',
  triesPassword: true,
  about: { device: 'never', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({
    copyId: copyIdSchema,
    /** Where the package goes: its rack, and its name there. */
    to: z.object({ rackId: rackIdSchema, name: rackNameSchema }),
    expected: amountSchema,
  }),
  result: outcome({
    packageBytes: byteCountSchema,
    /** The name of the file that was written, in the rack’s packages folder. */
    wrote: z.string(),
  }),
  phases: { opening: 'Opening with the password', exporting: 'Writing the package' },
  firstPhase: 'opening',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {},
  ifStopped: {},
});
