import { z } from 'zod';
import { dateStyles, extractFormats, extractSetSchema } from '../extract/choices.js';
import { itemCountSchema, ticketNumberSchema, rackIdSchema } from '../values/index.js';
import { defineOperation, outcome } from './define.js';

/** One narrow set as an open file. */
export const recordsExtractSchema = z.object({
  kind: z.literal('records'),
  set: extractSetSchema,
  format: z.enum(extractFormats),
  dates: z.enum(dateStyles),
  /** Names of contacts in place of numbers. */
  named: z.boolean(),
  /** What came with it, beside it: pictures, sounds and files. */
  media: z.boolean(),
  /** And videos among that. */
  videos: z.boolean().default(true),
  /** Whose clock times are told by: the shop’s, or UTC. */
  clock: z.enum(['shop', 'utc']).default('shop'),
  /** Only what was said or called from this day on, and until that one; days of the clock that is chosen. */
  since: z.iso.date().nullable().default(null),
  until: z.iso.date().nullable().default(null),
  /** Added to the last file, without doubling; otherwise a new file each time. */
  append: z.boolean(),
});

/** Something narrow that is taken out into open files. */
export const newExtractSchema = z.object({
  rackId: rackIdSchema,
  what: z.discriminatedUnion('kind', [
    recordsExtractSchema,
    z.object({
      kind: z.literal('applications'),
      applications: z
        .array(z.string().regex(/^[A-Za-z0-9][A-Za-z0-9._-]{0,80}$/))
        .min(1, 'Choose an application.')
        .max(200),
    }),
  ]),
});
export type NewExtract = z.infer<typeof newExtractSchema>;

export const extract = defineOperation({
  kind: 'extract',
  name: 'Taking out',
  start: {
    path: '/tickets/:number/extracts',
    summary:
      'Take only the messages, the calls, one chat, or single applications out into open files on a rack.',
    params: z.object({ number: ticketNumberSchema }),
    body: newExtractSchema,
  },
  permission: 'take-out',
  triesPassword: false,
  about: { device: 'always', archive: 'never', backup: 'never' },
  version: 2,
  input: z.object({
    rackId: rackIdSchema,
    /** The device's content revision when it began; null where it has none. */
    revision: z.string().nullable(),
    /** Its files lie in the folder of this ticket. */
    ticket: ticketNumberSchema,
    what: z.discriminatedUnion('kind', [
      recordsExtractSchema.extend({ fileName: z.string() }),
      z.object({
        kind: z.literal('applications'),
        applications: z.array(
          z.object({
            id: z.string(),
            name: z.string(),
            version: z.string().nullable().default(null),
          }),
        ),
        /** Who they came from, for the packages' manifests. */
        device: z.object({
          family: z.string(),
          model: z.string(),
          serial: z.string(),
          osVersion: z.string(),
        }),
      }),
    ]),
  }),
  result: outcome({
    /** What the file that was added to did not have. */
    newItems: itemCountSchema,
    /** Names of files, for whoever looks for them. */
    wrote: z.string(),
  }),
  phases: { taking: 'Taking it from the device', writing: 'Writing the files' },
  firstPhase: 'taking',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: false,
  ifCut: {},
  ifStopped: {},
});
