import {
  idSchema as id,
  backedUpDeviceSchema,
  instantSchema as instant,
  visitReasonIds,
  byteCountSchema as byteCount,
} from '@bright-cellar/core';
import { z } from 'zod';

export const customerSchema = z.object({
  id,
  name: z.string(),
  phone: z.string(),
  email: z.string(),
});

export type Customer = z.infer<typeof customerSchema>;

export const knownDeviceSchema = backedUpDeviceSchema.extend({
  id,
  imei: z.string().nullable(),
  readFrom: z.enum(['cable', 'typed']),
});

export type KnownDevice = z.infer<typeof knownDeviceSchema>;

/** What the shop knows of a device before a ticket is opened for it. */
export const knownVisitsSchema = z.object({
  device: knownDeviceSchema.nullable(),
  /** Whose it was at its last visit. */
  customer: customerSchema.nullable(),
  visits: z.array(
    z.object({
      number: z.string(),
      customerName: z.string(),
      openedAt: instant,
      reason: z.enum(visitReasonIds),
    }),
  ),
});

export type KnownVisits = z.infer<typeof knownVisitsSchema>;

/** Everything that the catalogue has of a customer. */
export const customerFormatSchema = z.enum(['json', 'pdf']);

export const customerDataSchema = z.object({
  customer: customerSchema,
  since: instant,
  visits: z.array(
    z.object({
      number: z.string(),
      reason: z.string(),
      notes: z.string(),
      openedAt: instant,
      closedAt: instant.nullable(),
      device: z.object({
        family: z.string(),
        model: z.string(),
        name: z.string(),
        serial: z.string(),
        imei: z.string(),
      }),
      agreed: z.array(z.object({ what: z.string(), given: z.boolean(), at: instant })),
    }),
  ),
  /** What is kept, and on which racks. */
  backups: z.array(
    z.object({ takenAt: instant, items: z.int(), bytes: byteCount, racks: z.array(z.string()) }),
  ),
  destroyed: z.array(z.object({ number: z.int(), device: z.string(), doneAt: instant.nullable() })),
  record: z.array(z.object({ at: instant, what: z.string(), by: z.string() })),
  /** Why they cannot be forgotten yet; empty where nothing is in the way. */
  inTheWay: z.array(z.string()),
});

export type CustomerData = z.infer<typeof customerDataSchema>;
