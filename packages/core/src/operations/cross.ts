import { z } from 'zod';
import { dataClassIds } from '../device/index.js';
import { crossingReportSchema } from '../crossing/report.js';
import {
  amountSchema,
  backupIdSchema,
  knownPasswordSchema,
  linkDeviceSchema,
  serialTailSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';
import { crossingInputSchema } from './foresee.js';

/** A chosen part of a backup goes onto a device: of another family, converted; or in use, beside what is on it. */
export const cross = defineOperation({
  kind: 'cross',
  name: 'Crossing',
  start: {
    path: '/backups/:id/crossings',
    summary: 'Send what a loss report told of onto its device.',
    params: z.object({ id: backupIdSchema }),
    body: knownPasswordSchema.safeExtend({
      deviceId: linkDeviceSchema,
      serialTail: serialTailSchema,
      /** The loss report. */
      foreseen: z.uuid(),
      /** Whoever starts it says that the customer knows what does not arrive as it was. */
      customerKnows: z.boolean(),
    }),
  },
  permission: 'restore',
  triesPassword: true,
  about: { device: 'always', archive: 'always', backup: 'always' },
  version: 1,
  input: crossingInputSchema.safeExtend({
    /** Files, and their bytes. */
    expected: amountSchema,
    foreseen: crossingReportSchema,
    /** The work that foresaw it; of those that were sent before there was more than classes to choose from it is not known. */
    foresaw: z.uuid().nullable().default(null),
    /** Beside what is on it; else all at once, while it is empty. */
    adds: z.boolean(),
  }),
  result: outcome({
    report: crossingReportSchema,
    /** Classes of which not so much arrived as was foreseen. */
    otherwise: z.array(z.enum(dataClassIds)),
  }),
  phases: {
    opening: 'Opening with the password',
    looking: 'Reading what is on the device',
    sending: 'Sending',
    installing: 'The device takes it in',
    comparing: 'Reading it back',
  },
  firstPhase: 'opening',
  unstoppable: ['installing'],
  pausable: [],
  continues: null,
  leavesBench: true,
  givesWay: false,
  ifCut: {
    safe: 'The backup on the rack is unchanged. What arrived on the device is there, each item whole.',
    next: 'Ask for the loss report again, and start once more: what is there is not sent twice.',
  },
  ifStopped: {
    safe: 'The backup on the rack is unchanged. What arrived on the device is there, each item whole.',
  },
});
