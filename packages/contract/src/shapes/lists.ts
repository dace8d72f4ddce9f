import { idSchema as id } from '@bright-cellar/core';
import { z } from 'zod';
import { archiveSorts } from './archives.js';

/** A part of a list, and where it goes on. */
export const pageOf = <Row extends z.ZodType>(row: Row) =>
  z.object({
    rows: z.array(row),
    /** Asked for with the next page; null at the end. */
    next: z.string().nullable(),
    /** How many there are of what was asked for, on all pages. */
    total: z.int(),
  });

/** How a list is asked for. */
export const listQuery = <const Keys extends readonly [string, ...string[]]>(
  keys: Keys,
  usual: Keys[number],
) =>
  z.object({
    text: z.string().max(100).default(''),
    sort: z.enum(keys).default(usual as never),
    order: z.enum(['asc', 'desc']).default('desc'),
    after: z.string().max(500).default(''),
  });

/** A search in the list of archives that somebody wants to have again. */
export const savedViewSchema = z.object({
  id,
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  find: z.string().max(200),
  sort: z.enum(archiveSorts),
  order: z.enum(['asc', 'desc']),
});

export type SavedView = z.infer<typeof savedViewSchema>;
