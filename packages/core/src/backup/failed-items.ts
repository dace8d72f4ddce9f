import { z } from 'zod';
import { dataClassIds } from '../device/index.js';

/** What was not taken, by class and reason. */
export const failedItemsSchema = z.object({
  class: z.enum(dataClassIds),
  reason: z.string(),
  count: z.int().min(1),
  /** The device's own opaque ids of the first of them. No names: those are the customer's. */
  ids: z.array(z.string()).optional(),
});
export type FailedItems = z.infer<typeof failedItemsSchema>;

export const failedCount = (failed: readonly Pick<FailedItems, 'count'>[]): number =>
  failed.reduce((sum, { count }) => sum + count, 0);
