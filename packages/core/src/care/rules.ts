import { z } from 'zod';

/** On how many racks each archive is to lie. */
export const copyCounts = ['1', '2', '3'] as const;
export const copyCountNames: Record<CopyCount, string> = {
  '1': 'One',
  '2': 'Two, on two racks',
  '3': 'Three, on three racks',
};
export type CopyCount = (typeof copyCounts)[number];

/** How old the last look at a copy may be, days. */
export const checkAges = ['never', '30', '60', '90', '180'] as const;
export const checkAgeNames: Record<CheckAge, string> = {
  never: 'Not by itself',
  '30': 'Every thirty days',
  '60': 'Every two months',
  '90': 'Every three months',
  '180': 'Every half year',
};
export type CheckAge = (typeof checkAges)[number];

const minuteOfDay = z.int().min(0).max(1439);

/** What the shop decided of how archives are kept. */
export const careRulesSchema = z.object({
  copies: z.enum(copyCounts),
  /** One of them off the premises. */
  offPremises: z.boolean(),
  checkEvery: z.enum(checkAges),
  /** When work begins that nobody asked for; minutes of a day, shop time; may run over midnight. */
  quietHours: z.object({ from: minuteOfDay, to: minuteOfDay }),
  /** Copies that are owed are made by themselves then. */
  copiesByThemselves: z.boolean(),
});
export type CareRules = z.infer<typeof careRulesSchema>;

const DAY_MS = 86_400_000;

/** A copy that nobody looked at since then is due; null where none ever is. */
export const dueSince = ({ checkEvery }: Pick<CareRules, 'checkEvery'>, now: Date): Date | null =>
  checkEvery === 'never' ? null : new Date(now.getTime() - Number(checkEvery) * DAY_MS);
