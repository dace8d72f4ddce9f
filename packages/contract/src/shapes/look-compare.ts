import {
  archiveIdSchema,
  backupIdSchema,
  backupPasswordSchema,
  changes,
  dataClassIds,
  linkDeviceSchema,
} from '@bright-cellar/core';
import { z } from 'zod';

/** What an open backup is compared with: another of its archive, the newest of another archive, or a device on the bench as it is now. */
export const comparedWithSchema = z.union([
  z.object({ backupId: backupIdSchema }),
  z.object({ archiveId: archiveIdSchema, password: backupPasswordSchema }),
  z.object({ deviceId: linkDeviceSchema }),
]);
export type ComparedWith = z.infer<typeof comparedWithSchema>;

const amount = z.object({ items: z.int(), bytes: z.int() });
const counts = z.object(
  Object.fromEntries(changes.map((change) => [change, amount])) as Record<
    (typeof changes)[number],
    typeof amount
  >,
);

export const comparisonSchema = z.object({
  /** Items looked at so far. */
  looked: z.int(),
  isDone: z.boolean(),
  /** Why it ended early, in a sentence; null where it did not. */
  trouble: z.string().nullable(),
  /** Whether it is all there; null until it is known. */
  sentence: z.string().nullable(),
  classes: z.array(z.object({ class: z.enum(dataClassIds), counts })),
});
export type Comparison = z.infer<typeof comparisonSchema>;

export const differenceSchema = z.object({
  change: z.enum(changes),
  class: z.enum(dataClassIds),
  /** Where it was, and where it is; null where it was not, or is not. */
  before: z.string().nullable(),
  after: z.string().nullable(),
  bytesBefore: z.int().nullable(),
  bytesAfter: z.int().nullable(),
});
export type LookDifference = z.infer<typeof differenceSchema>;
