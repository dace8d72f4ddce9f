import { dataClassIds, fieldIds } from '@bright-cellar/core';
import { z } from 'zod';

/** Some records of a class that do not arrive as they were: each field as it was, and as it will be. All of it is the customer's. */
export const classExamplesSchema = z.object({
  class: z.enum(dataClassIds),
  examples: z.array(
    z.object({
      title: z.string(),
      fields: z.array(z.object({ field: z.enum(fieldIds), was: z.string(), becomes: z.string() })),
    }),
  ),
});
export type ClassExamples = z.infer<typeof classExamplesSchema>;
