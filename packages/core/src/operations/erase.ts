import { z } from 'zod';
import {
  linkDeviceSchema,
  serialTailSchema,
  archiveIdSchema,
  backupIdSchema,
  copyIdSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const erase = defineOperation({
  kind: 'erase',
  name: 'Erase',
  start: {
    path: '/devices/:deviceId/erase',
    summary: 'Erase a device that has a proven backup of what is on it.',
    params: z.object({ deviceId: linkDeviceSchema }),
    body: z.object({ serialTail: serialTailSchema }),
  },
  permission: 'erase',
  triesPassword: false,
  about: { device: 'always', archive: 'always', backup: 'always' },
  version: 1,
  input: z.object({
    serial: z.string(),
    /** The proven backup that made it allowed, and the copy that it was proven in. */
    provenBackupId: backupIdSchema,
    copyId: copyIdSchema,
    /** What the device held when that backup was taken. */
    contentRevision: z.string(),
    /** What that copy was when it was proven. */
    expected: z.object({ archive: archiveIdSchema, digest: z.string() }),
  }),
  result: outcome({}),
  phases: {
    checking: 'Looking at its backup once more',
    erasing: 'The device erases itself',
  },
  firstPhase: 'checking',
  unstoppable: 'all',
  pausable: [],
  continues: null,
  leavesBench: true,
  givesWay: false,
  ifCut: {
    safe: 'The device’s proven backup is unchanged.',
    next: 'Look at the device’s own screen to see whether it is empty.',
  },
  ifStopped: {},
});
