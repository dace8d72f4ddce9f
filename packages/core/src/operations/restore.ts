import { z } from 'zod';
import {
  amountSchema,
  itemCountSchema,
  knownPasswordSchema,
  linkDeviceSchema,
  serialTailSchema,
  backupIdSchema,
  copyIdSchema,
} from '../values/index.js';
import { newBackupSchema } from './backup.js';
import { defineOperation, outcome } from './define.js';

/** From an old device onto a new one: a backup is taken, and sent while it is taken. */
export const newMigrationSchema = newBackupSchema.extend({
  onto: z.object({ deviceId: linkDeviceSchema, serialTail: serialTailSchema }),
});
export type NewMigration = z.infer<typeof newMigrationSchema>;

/** How the items on the target compare with the backup's. */
export const comparedSchema = z.object({
  same: itemCountSchema,
  different: itemCountSchema,
  missing: itemCountSchema,
  extra: itemCountSchema,
});

export const restore = defineOperation({
  kind: 'restore',
  name: 'Restore',
  start: {
    path: '/backups/:id/restores',
    summary: 'Restore a backup onto an empty device.',
    params: z.object({ id: backupIdSchema }),
    body: knownPasswordSchema.safeExtend({
      deviceId: linkDeviceSchema,
      serialTail: serialTailSchema,
    }),
  },
  permission: 'restore',
  triesPassword: true,
  about: { device: 'always', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({
    /** Null where the backup is still being taken. */
    copyId: copyIdSchema.nullable(),
    /** The work that takes the backup, where it is sent while that runs. */
    follows: z.uuid().optional(),
    serial: z.string(),
    family: z.string(),
    osVersion: z.string(),
    expected: amountSchema,
  }),
  result: outcome({ compared: comparedSchema }),
  phases: {
    opening: 'Opening with the password',
    sending: 'First pass: sending',
    installing: 'Second pass: the device installs',
    comparing: 'Comparing with the backup',
  },
  firstPhase: 'opening',
  unstoppable: ['installing'],
  pausable: [],
  continues: null,
  leavesBench: true,
  givesWay: false,
  ifCut: {
    safe: 'The backup on the rack is unchanged. The device may hold an incomplete restore.',
    next: 'If the device is not at its welcome screen, erase it; then restore again.',
  },
  ifStopped: {},
});
