import { z } from 'zod';
import { benchSchema, operationSchema } from './shapes.js';

/** Where browsers listen, as Server-Sent Events (WHATWG HTML); each event's data is one of these. */
export const EVENTS_PATH = '/api/events';

/** Lists that a browser should read again. */
export const changedTopics = ['tickets', 'archives', 'racks', 'schedules'] as const;

export const liveEventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('bench'), bench: benchSchema }),
  z.object({ type: z.literal('operation'), operation: operationSchema }),
  z.object({ type: z.literal('changed'), topic: z.enum(changedTopics) }),
  /** The session ended, here or in another browser. */
  z.object({ type: z.literal('signed-out') }),
  z.object({ type: z.literal('alive') }),
]);
export type LiveEvent = z.infer<typeof liveEventSchema>;
