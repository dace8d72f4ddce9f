import { z } from 'zod';

/** What stands on a shop’s papers. */
export const shopDetailsSchema = z.object({
  name: z.string().trim().min(1, 'Type the shop’s name.').max(80),
  /** Where it is and how it is reached, in a few lines. */
  address: z.string().trim().max(300),
});
export type ShopDetails = z.infer<typeof shopDetailsSchema>;
