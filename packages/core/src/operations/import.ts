import { z } from 'zod';
import {
  backupPasswordSchema,
  byteCountSchema,
  itemCountSchema,
  rackNameSchema,
  archiveIdSchema,
  copyIdSchema,
  rackIdSchema,
} from '../values/index.js';
import { committingSchema } from './backup.js';
import { defineOperation, outcome } from './define.js';

export const importPackage = defineOperation({
  kind: 'import',
  name: 'Import',
  start: {
    path: '/archives/:id/imports',
    summary: 'Take the backup of a package into an archive.',
    params: z.object({ id: archiveIdSchema }),
    body: z.object({
      rackId: rackIdSchema,
      name: rackNameSchema,
      password: backupPasswordSchema,
      /** Empty when it is the archive’s. */
      packagePassword: z.string().max(1024),
    }),
  },
  permission: 'take-package-in',
  triesPassword: true,
  about: { device: 'never', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({
    copyId: copyIdSchema,
    /** Where the package lies: its rack, and its name there. */
    from: z.object({ rackId: rackIdSchema, name: rackNameSchema }),
    packageBytes: byteCountSchema,
    osVersion: z.string(),
    /** The device whose archive it is: a package of another is refused. */
    serial: z.string(),
    committing: committingSchema.optional(),
  }),
  result: outcome({
    storedBytes: byteCountSchema,
    /** What the archive did not have before. */
    newItems: itemCountSchema,
    newBytes: byteCountSchema,
    /** SHA-512 of the archive's manifest. */
    digest: z.string(),
  }),
  phases: { opening: 'Opening with the password', importing: 'Taking the package in' },
  firstPhase: 'opening',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {},
  ifStopped: {},
});
