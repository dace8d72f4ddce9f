import { dataClassIds } from '@bright-cellar/core';
import { z } from 'zod';
import { shelfIds } from './look-shelves.js';

/** Something that somebody took in hand in a look-in, to take it out. */
export const pickSchema = z.discriminatedUnion('of', [
  /** What was said in a conversation: all of it, or in one month (as `2026-03`, UTC). */
  z.object({
    of: z.literal('conversation'),
    conversation: z.int().min(0),
    month: z
      .string()
      .regex(/^\d{4}-\d\d$/)
      .nullable(),
  }),
  /** All with the one person of a conversation: what was said, calls, and their card. */
  z.object({ of: z.literal('person'), conversation: z.int().min(0) }),
  z.object({ of: z.literal('row'), shelf: z.enum(shelfIds), row: z.int().min(0) }),
  /** All that a search finds on a shelf; with nothing looked for, all of it. */
  z.object({ of: z.literal('found'), shelf: z.enum(shelfIds), text: z.string().max(200) }),
  /** Files of a class as they are, whose path has these letters. */
  z.object({ of: z.literal('files'), class: z.enum(dataClassIds), text: z.string().max(200) }),
]);
export type Pick = z.infer<typeof pickSchema>;

/** What is in hand. */
export const basketSchema = z.object({
  picks: z.array(
    z.object({
      /** By which it is put back. */
      key: z.string(),
      words: z.string(),
      /** How many of them there are: messages, cards, files. */
      count: z.int(),
    }),
  ),
});
export type Basket = z.infer<typeof basketSchema>;

/** How taking out goes, or went. */
export const takeOutSchema = z.object({
  state: z.enum(['waiting', 'running', 'done', 'cut']),
  /** Files in the package so far. */
  taken: z.int(),
  bytes: z.int(),
  failed: z.array(z.object({ path: z.string(), reason: z.string() })),
  /** Where on a rack it goes: a folder of it; null where a browser fetches it. */
  wrote: z.string().nullable(),
});
export type TakeOut = z.infer<typeof takeOutSchema>;

/** What was taken out, as one ZIP file, told as it is read; once. Asks for the permission `take-out`. */
export const lookTakeOutPath = (id: string, takeOut: string): string =>
  `/api/look-ins/${id}/take-outs/${takeOut}/package`;
