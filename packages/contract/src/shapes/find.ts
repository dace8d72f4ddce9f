import { z } from 'zod';

export const foundSchema = z.object({
  kind: z.enum(['ticket', 'archive', 'device', 'rack']),
  /** Where in the application it is. */
  path: z.string(),
  title: z.string(),
  detail: z.string(),
});

export type Found = z.infer<typeof foundSchema>;
