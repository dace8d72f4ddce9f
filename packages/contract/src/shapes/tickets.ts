import {
  stepIds,
  stepStates,
  agreementKinds,
  instantSchema as instant,
  visitReasonIds,
  idSchema as id,
  settlingStepSchema,
} from '@bright-cellar/core';
import { z } from 'zod';
import { knownDeviceSchema, customerSchema } from './customers.js';
import { operationSchema } from './operations.js';

export const ticketSorts = ['opened', 'number', 'customer', 'device', 'reason'] as const;

export type TicketSort = (typeof ticketSorts)[number];

export const stepSchema = z.object({
  id: z.enum(stepIds),
  title: z.string(),
  state: z.enum(stepStates),
  evidence: z.array(z.string()),
  sentence: z.string().nullable(),
  skippable: z.boolean(),
});

export const agreementSchema = z.object({
  kind: z.enum(agreementKinds),
  given: z.boolean(),
  days: z.int().nullable(),
  by: z.string(),
  at: instant,
});

export const ticketRowSchema = z.object({
  number: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  reason: z.enum(visitReasonIds),
  openedAt: instant,
  promisedAt: instant.nullable(),
  /** The step somebody should look at now, and its sentence. */
  step: stepSchema.nullable(),
});

export type TicketRow = z.infer<typeof ticketRowSchema>;

export const auditRowSchema = z.object({
  at: instant,
  by: z.string(),
  what: z.string(),
});

export const ticketSchema = ticketRowSchema.extend({
  customer: customerSchema,
  agreed: z.object({
    backup: z.boolean(),
    lookIn: z.boolean(),
    escrow: z.boolean(),
    keepDays: z.int(),
  }),
  /** Everything that was said about it, the newest first. */
  agreements: z.array(agreementSchema),
  notes: z.string(),
  /** Null while it is open. */
  closedAt: instant.nullable(),
  openedBy: z.string(),
  runSheet: z.array(stepSchema),
  /** Where the ticket's device is now; null when it is not on the bench. */
  berth: z.int().nullable(),
  archiveIds: z.array(id),
  /** What the device that its backup went onto still asks of its owner, and what it asked; empty when that is not on the bench. */
  settling: z.array(settlingStepSchema),
  /** An archive of an earlier visit that this device’s next backup can go into; null when there is none there. */
  knownArchive: z
    .object({ id, rackName: z.string(), takenAt: instant, reminder: z.string() })
    .nullable(),
  operations: z.array(operationSchema),
  history: z.array(auditRowSchema),
});

export type Ticket = z.infer<typeof ticketSchema>;
