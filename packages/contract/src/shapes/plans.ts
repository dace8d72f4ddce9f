import {
  dataClassIds,
  byteCountSchema as byteCount,
  estimateSchema,
  idSchema as id,
  amountSchema,
  planModes,
  choiceSchema,
} from '@bright-cellar/core';
import { z } from 'zod';

/** Everything on a device, as columns: `ids[i]`, `classes[i]` … are one item. */
export const listingSchema = z.object({
  revision: z.string(),
  groups: z.array(
    z.object({
      class: z.enum(dataClassIds),
      id: z.string(),
      name: z.string(),
      kind: z.enum(['application', 'thread', 'database', 'album']),
      items: z.int(),
      bytes: byteCount,
      sealed: z.boolean(),
      offered: z.boolean().nullable(),
    }),
  ),
  ids: z.array(z.string()),
  /** Places in {@link dataClassIds}. */
  classes: z.array(z.int()),
  /** Places in `groupIds`. */
  inGroups: z.array(z.int()),
  groupIds: z.array(z.string()),
  /** Null unless the customer agreed that the shop looks inside. */
  names: z.array(z.string()).nullable(),
  bytes: z.array(z.int()),
  /** ms since 1970, UTC. */
  modified: z.array(z.int()),
});

export type Listing = z.infer<typeof listingSchema>;

/** What a plan would cost, and where it would go. */
export const planCostSchema = z.object({
  estimate: estimateSchema,
  /** One by one. */
  classes: z.array(
    z.object({
      class: z.enum(dataClassIds),
      items: z.int(),
      bytes: byteCount,
      storedBytes: z.number(),
      ms: z.number(),
    }),
  ),
  /** What the link gave while it was measured, bytes a second; null when nothing was read. */
  linkRate: z.number().nullable(),
  pastRuns: z.int(),
  racks: z.array(
    z.object({
      rackId: id,
      fits: z.boolean(),
      freeAfterLow: z.number(),
      freeAfterHigh: z.number(),
    }),
  ),
  /** Null when none has room. */
  proposal: z.object({ rackId: id, reason: z.string() }).nullable(),
  /** What the archive's folder would be called. */
  name: z.string(),
});

export type PlanCost = z.infer<typeof planCostSchema>;

/** What a further backup would cost. */
export const furtherCostSchema = z.object({
  /** In the archive's newest backup as it is on the device. */
  same: amountSchema,
  toSend: amountSchema,
  estimate: estimateSchema,
  /** On the rack that the archive lies on. */
  rackName: z.string(),
  fits: z.boolean(),
  freeAfterLow: z.number(),
  freeAfterHigh: z.number(),
});

export type FurtherCost = z.infer<typeof furtherCostSchema>;

/** What was taken before, and is proposed again. */
export const planSchema = z.object({
  id,
  /** Empty for the one that is only remembered. */
  name: z.string(),
  mode: z.enum(planModes),
  choice: choiceSchema,
  encrypted: z.boolean(),
  /** Why it is proposed. */
  because: z.string(),
});

export type Plan = z.infer<typeof planSchema>;
