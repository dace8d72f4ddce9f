import { z } from 'zod';
import { crossingReportSchema } from '../crossing/report.js';
import {
  amountSchema,
  itemCountSchema,
  linkDeviceSchema,
  serialTailSchema,
  ticketNumberSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** Messages or calls out of an open file go onto a device, without doubling; or it is only found out what would. */
export const bringBack = defineOperation({
  kind: 'bringBack',
  name: 'Messages back',
  start: {
    path: '/tickets/:number/messages-back',
    summary: 'Bring messages or calls out of an open file back onto the ticket’s device.',
    params: z.object({ number: ticketNumberSchema }),
    body: z.object({
      deviceId: linkDeviceSchema,
      /** The file, as it was given and mapped before. */
      file: z.uuid(),
      /** Null: nothing is written, and what would arrive is found out. */
      serialTail: serialTailSchema.nullable(),
    }),
  },
  permission: 'restore',
  triesPassword: false,
  about: { device: 'always', archive: 'never', backup: 'never' },
  version: 1,
  input: z.object({
    serial: z.string(),
    family: z.string(),
    /** What is in it stands nowhere but in the memory of the work process. */
    file: z.uuid(),
    /** Records in the file. */
    expected: amountSchema,
    /** Beside what is on it; else all at once, while it is empty. */
    adds: z.boolean(),
    writes: z.boolean(),
  }),
  result: outcome({
    report: crossingReportSchema,
    wrote: z.boolean(),
    /** Lines of the file that did not come back. */
    leftOut: itemCountSchema,
  }),
  phases: {
    looking: 'Reading what is on the device',
    sending: 'Sending',
    installing: 'The device takes it in',
    comparing: 'Reading it back',
  },
  firstPhase: 'looking',
  unstoppable: ['installing'],
  pausable: [],
  continues: null,
  leavesBench: true,
  givesWay: false,
  ifCut: {
    safe: 'The file is as it was. What arrived on the device is there, each item whole.',
    next: 'Bring the file once more: what is there is not sent twice.',
  },
  ifStopped: {
    safe: 'The file is as it was. What arrived on the device is there, each item whole.',
  },
});
