import { z } from 'zod';
import {
  choiceSchema,
  leaveOutSchema,
  nothingLeftOut,
  nothingSparable,
  sparableSchema,
} from '../backup/index.js';
import {
  anyDay,
  daySpanSchema,
  backupIdSchema,
  copyIdSchema,
  knownPasswordSchema,
  linkDeviceSchema,
} from '../values/index.js';
import { crossingReportSchema } from '../crossing/report.js';
import { defineOperation, outcome } from './define.js';

/** Which part of a backup goes over, in words that name nothing of a customer's. */
export const chosenPartSchema = z.object({
  choice: choiceSchema,
  /** Only what is of these days, where it is of any. */
  days: daySpanSchema.default(anyDay),
  /** Of files, what stays by a rule. */
  without: leaveOutSchema.default(nothingLeftOut),
});
export type ChosenPart = z.infer<typeof chosenPartSchema>;

/** What of a backup is to go onto which device. */
export const crossingInputSchema = chosenPartSchema.extend({
  copyId: copyIdSchema,
  serial: z.string(),
  family: z.string(),
  /** That of the device that was backed up. */
  sourceFamily: z.string(),
  /** Whose days they are: an IANA time zone. */
  zone: z.string().default('UTC'),
  /** Only what is in hand in this look-in; what that is stands nowhere but in the memory of the work process. */
  lookIn: z.uuid().nullable().default(null),
});

/** Reads backup and target, converts all that was chosen, and says what will arrive; writes nothing. */
export const foresee = defineOperation({
  kind: 'foresee',
  name: 'Loss report',
  start: {
    path: '/backups/:id/foresights',
    summary: 'Say what would arrive of a chosen part of a backup on a device.',
    params: z.object({ id: backupIdSchema }),
    body: knownPasswordSchema.safeExtend({
      deviceId: linkDeviceSchema,
      /** Looked at where nothing is in hand. */
      ...chosenPartSchema.shape,
      lookIn: z.uuid().nullable().default(null),
    }),
  },
  permission: 'restore',
  triesPassword: true,
  about: { device: 'always', archive: 'always', backup: 'always' },
  version: 1,
  input: crossingInputSchema,
  result: outcome({
    report: crossingReportSchema,
    /** What rules would leave out of it. */
    sparable: sparableSchema.default(nothingSparable),
  }),
  phases: {
    opening: 'Opening with the password',
    looking: 'Reading what is on the device',
    converting: 'Converting',
  },
  firstPhase: 'opening',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: { safe: 'Nothing was written.', next: 'Ask for the loss report again.' },
  ifStopped: { safe: 'Nothing was written.' },
});
