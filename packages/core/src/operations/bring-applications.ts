import { z } from 'zod';
import { crossingReportSchema } from '../crossing/report.js';
import {
  amountSchema,
  itemCountSchema,
  linkDeviceSchema,
  rackIdSchema,
  rackNameSchema,
  serialTailSchema,
  ticketNumberSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** A package of one application, by where it lies. */
const packageAtSchema = z.object({ rackId: rackIdSchema, name: rackNameSchema });

/** Packages of single applications go onto a device, each with all of its data or not at all. */
export const bringApplications = defineOperation({
  kind: 'bringApplications',
  name: 'Applications back',
  start: {
    path: '/tickets/:number/applications-back',
    summary: 'Bring applications with their data out of packages onto a device.',
    params: z.object({ number: ticketNumberSchema }),
    body: z.object({
      deviceId: linkDeviceSchema,
      serialTail: serialTailSchema,
      packages: z.array(packageAtSchema).min(1, 'Choose a package.').max(100),
    }),
  },
  permission: 'restore',
  triesPassword: false,
  about: { device: 'always', archive: 'never', backup: 'never' },
  version: 1,
  input: z.object({
    serial: z.string(),
    family: z.string(),
    /** Packages lie in the folder of this ticket. */
    ticket: ticketNumberSchema,
    packages: z.array(packageAtSchema),
    expected: amountSchema,
    /** Beside what is on it; else all at once, while it is empty. */
    adds: z.boolean(),
  }),
  result: outcome({
    report: crossingReportSchema,
    /** Applications of which all arrived. */
    applications: itemCountSchema,
  }),
  phases: {
    checking: 'Checking the packages',
    looking: 'Reading what is on the device',
    sending: 'Sending',
    installing: 'The device takes it in',
    comparing: 'Reading it back',
  },
  firstPhase: 'checking',
  unstoppable: ['installing'],
  pausable: [],
  continues: null,
  leavesBench: true,
  givesWay: false,
  ifCut: {
    safe: 'The packages are as they were. What arrived on the device is there, each file whole.',
    next: 'Bring them once more: what is there is not sent twice.',
  },
  ifStopped: {
    safe: 'The packages are as they were. What arrived on the device is there, each file whole.',
  },
});
