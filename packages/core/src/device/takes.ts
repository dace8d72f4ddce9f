import { z } from 'zod';
import { dataClassIds, type DataClass } from './classes.js';
import { lettersSchema } from './letters.js';

const mediaTypeSchema = z
  .string()
  .max(121)
  .regex(/^[a-z0-9][a-z0-9!#$&^_.+-]*\/[a-z0-9][a-z0-9!#$&^_.+-]*$/);

/**
 * Where something goes on a device: folders and a name, with places to be filled in: each once at most, and none right behind
 * another, so that whoever looks for a path of that kind is done soon whatever a device says.
 */
const placeSchema = z
  .string()
  .max(200)
  .regex(/^(?!.*(?:^|\/)\.{0,2}(?:\/|$))(?!.*\}\{)(?!.*(\{\w+\}).*\1)[\w{}./ -]+$/);

/** How a device keeps some of one class, as far as somebody else may put it there. */
export const takingSchema = z.object({
  class: z.enum(dataClassIds),
  /** The format of records that it reads; null for plain files. */
  format: mediaTypeSchema.nullable(),
  /**
   * Where they go. Of records: `{n}` is a number that is free, one record a file; `{month}` and `{conversation}` gather those of one;
   * none of these, all of them. Of plain files: `{path}`, where they lay.
   */
  place: placeSchema,
  /** Media types of plain files that it can show; others lie there and are not shown. Empty: any. */
  shows: z.array(mediaTypeSchema).max(100),
  /** How much of a record's fields it keeps. */
  letters: lettersSchema.default({}),
});
export type Taking = z.infer<typeof takingSchema>;

/** What a device takes from other families, and into what is on it. */
export const takesSchema = z.object({
  /** Item by item, beside what is on it, nothing written over. False: only all at once, while it is empty. */
  adds: z.boolean(),
  /** Also in the place of one that is as it was read, or takes such a one away. */
  changes: z.boolean().default(false),
  items: z.array(takingSchema).max(100),
  /** What its application store has, and whether an application takes over what its namesake of another family kept. */
  applications: z
    .array(
      z.object({
        id: z.string().max(120),
        crosses: z.boolean(),
        /** That which its store has; null where that is not known. */
        version: z.string().max(40).nullable().default(null),
      }),
    )
    .max(5000),
});
export type Takes = z.infer<typeof takesSchema>;
export const takesNothing: Takes = { adds: false, changes: false, items: [], applications: [] };

/** How it takes a format of records; null where it does not. */
export const takingOf = (takes: Takes, of: DataClass, format: string | null): Taking | null =>
  takes.items.find((one) => one.class === of && one.format === format) ?? null;

const PLACES = /\{(n|month|conversation|path)\}/g;

/** Whether something lies already where a device keeps such things. */
export function isPlaced(place: string, path: string): boolean {
  const pattern = place
    .split(PLACES)
    .map((part, i) => (i % 2 === 0 ? part.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&') : within(part)))
    .join('');
  return new RegExp(`^${pattern}$`).test(path);
}
const within = (place: string): string =>
  place === 'month' ? '\\d{4}-\\d\\d' : place === 'path' ? '.+' : '[^/]+';

/** A place with its parts filled in. */
export const filled = (
  place: string,
  parts: Partial<Record<'n' | 'month' | 'conversation' | 'path', string>>,
): string => place.replaceAll(PLACES, (_, name: keyof typeof parts) => parts[name] ?? '');
