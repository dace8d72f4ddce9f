import { problemCodes } from '@bright-cellar/core';
import { z } from 'zod';

export const problemSchema = z.object({
  code: z.enum(problemCodes),
  what: z.string(),
  safe: z.string(),
  next: z.string(),
  /** What is wrong with which field of the form, where it is about a form. */
  fields: z.record(z.string(), z.string()).optional(),
});

export type ApiProblem = z.infer<typeof problemSchema>;
