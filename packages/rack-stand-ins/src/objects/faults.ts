import { z } from 'zod';

/** What goes wrong with a storage, as long as it is set. */
export const faultsSchema = z.object({
  /** Waits so long before each answer. */
  slowMs: z.number().min(0).default(0),
  /** One of so many requests is answered with 503; none with 0. */
  failEvery: z.number().int().min(0).default(0),
  /** One of so many answers is cut off in the middle; none with 0. */
  cutEvery: z.number().int().min(0).default(0),
  /** How far its clock is off. */
  skewMs: z.number().default(0),
});
export type Faults = z.infer<typeof faultsSchema>;
