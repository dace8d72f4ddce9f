import { z } from 'zod';
import { benchSchema, operationSchema } from './shapes/index.js';

/** Where browsers listen, as Server-Sent Events (WHATWG HTML); each event's data is one of these. */
export const EVENTS_PATH = '/api/events';

/** What screens show, and may have to read again. One line adds one. */
export const changeSubjects = [
  'ticket', // by number
  'archive', // by id
  'rack', // by id
  'operation', // by id
  'schedule',
  'settings',
  'care',
  'escrow',
  'account', // by technician
  'look-in',
] as const;

export const changeSchema = z.object({
  subject: z.enum(changeSubjects),
  /** Which one; empty where the list of them is another one: one more, one less. */
  ref: z.string(),
});
export type Change = z.infer<typeof changeSchema>;

export const liveEventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('bench'), bench: benchSchema }),
  /** How far work is; that it began or ended is told as a change too. */
  z.object({ type: z.literal('operation'), operation: operationSchema }),
  z.object({ type: z.literal('changed'), changes: z.array(changeSchema) }),
  /** So much happened meanwhile that everything is to be read again. */
  z.object({ type: z.literal('everything') }),
  /** The session ended, here or in another browser. */
  z.object({ type: z.literal('signed-out') }),
  z.object({ type: z.literal('alive') }),
]);
export type LiveEvent = z.infer<typeof liveEventSchema>;
