import { z } from 'zod';

/** How many berths the shop's own adapter has. */
export const berthCounts = ['2', '4', '6', '8'] as const;
export const berthCountNames: Readonly<Record<(typeof berthCounts)[number], string>> = {
  '2': 'Two',
  '4': 'Four',
  '6': 'Six',
  '8': 'Eight',
};

/** How long work waits for a device that left in the middle of it, in minutes; its password stays in memory as long. */
export const deviceWaits = ['2', '5', '10', '30'] as const;
export const deviceWaitNames: Readonly<Record<(typeof deviceWaits)[number], string>> = {
  '2': 'Two minutes',
  '5': 'Five minutes',
  '10': 'Ten minutes',
  '30': 'Half an hour',
};

/** A folder in which drives and shares appear when they are mounted; in one that ends with `/*` every folder is a medium. */
const placeSchema = z
  .string()
  .trim()
  .max(400)
  .regex(/^(?:\/[^/\0]+)+$/, 'The whole path of a folder, as /media.')
  .refine((path) => !path.split('/').includes('..'), 'A path without “..”.');

export const benchRulesSchema = z.object({
  berths: z.enum(berthCounts),
  places: z.array(placeSchema).min(1, 'One folder at least.').max(12),
  waitMinutes: z.enum(deviceWaits),
});
export type BenchRules = z.infer<typeof benchRulesSchema>;

export const usualBenchRules: BenchRules = {
  berths: '4',
  places: ['/media', '/run/media', '/mnt'],
  waitMinutes: '10',
};

/** Places as they were typed, one on each line: an empty line is none. */
export const typedPlaces = (lines: readonly string[]): string[] =>
  lines.map((line) => line.trim()).filter((line) => line !== '');

/** What is wrong with places that were typed; null where nothing is. */
export const placesProblem = (lines: readonly string[]): string | null =>
  benchRulesSchema.shape.places.safeParse(typedPlaces(lines)).error?.issues[0]?.message ?? null;
