import { z } from 'zod';
import {
  amountSchema,
  byteCountSchema,
  knownPasswordSchema,
  rackNameSchema,
  backupIdSchema,
  copyIdSchema,
  rackIdSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** A sealed file for who has the tools, or a folder with the page that opens it in any browser. */
export const packageForms = ['file', 'stick'] as const;

export const exportPackage = defineOperation({
  kind: 'export',
  name: 'Export',
  start: {
    path: '/backups/:id/exports',
    summary:
      'Write a backup so that it opens without this program: as one file, or as a stick that opens itself.',
    params: z.object({ id: backupIdSchema }),
    body: knownPasswordSchema.safeExtend({
      rackId: rackIdSchema,
      form: z.enum(packageForms).default('file'),
    }),
  },
  permission: 'take-out',
  triesPassword: true,
  about: { device: 'never', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({
    form: z.enum(packageForms).default('file'),
    copyId: copyIdSchema,
    /** Where the package goes: its rack, and its name there. */
    to: z.object({ rackId: rackIdSchema, name: rackNameSchema }),
    expected: amountSchema,
  }),
  result: outcome({
    packageBytes: byteCountSchema,
    form: z.enum(packageForms).default('file'),
    /** The name of the file or folder that was written, in the rack’s packages folder. */
    wrote: z.string(),
  }),
  phases: {
    opening: 'Opening with the password',
    exporting: 'Writing the package',
    comparing: 'Reading it back',
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
