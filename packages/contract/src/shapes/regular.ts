import {
  rackIdSchema,
  recordsExtractSchema,
  idSchema as id,
  scheduleSchema,
  instantSchema as instant,
} from '@bright-cellar/core';
import { z } from 'zod';
import { knownDeviceSchema } from './customers.js';

export const regularExtractSchema = z.object({ rackId: rackIdSchema, what: recordsExtractSchema });

export type RegularExtract = z.infer<typeof regularExtractSchema>;

/** What is taken from a device again and again: a backup, or one narrow set as an open file. */
export const regularWorkSchema = z.object({
  id,
  /** Null for a backup of everything. */
  extract: regularExtractSchema.nullable(),
  /** It is kept in step: with another device, or where that is null, with the customer's own server. Null for everything else. */
  sync: z.object({ with: z.string().nullable() }).nullable(),
  ticketNumber: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  schedule: scheduleSchema,
  state: z.enum(['waiting', 'due', 'missed']),
  nextDue: instant.nullable(),
  lastDone: instant.nullable(),
  /** Until when this program holds its password in memory; null when it does not, or none is needed. */
  armedUntil: instant.nullable(),
  /** Why it cannot start by itself now; null when it can, or need not. */
  waitsFor: z.string().nullable(),
});

export type RegularWork = z.infer<typeof regularWorkSchema>;
