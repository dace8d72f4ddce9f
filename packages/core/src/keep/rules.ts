import { z } from 'zod';

export const forgetAges = ['0', '12', '24', '36', '60'] as const;
/** What each is called. */
export const forgetAgeNames: Readonly<Record<(typeof forgetAges)[number], string>> = {
  0: 'Never by itself',
  12: 'A year after their last visit',
  24: 'Two years after their last visit',
  36: 'Three years after their last visit',
  60: 'Five years after their last visit',
};

/** What the shop decided of what it destroys. */
export const disposalRulesSchema = z.object({
  /** Once everything of a customer is destroyed, their name, number and address go from the catalogue too. */
  forgetsNames: z.boolean(),
  /** Customers who were not here for so many months, and of whom nothing is kept, are forgotten; `0`: never by itself. */
  forgetAfter: z.enum(forgetAges).default('0'),
});
export type DisposalRules = z.infer<typeof disposalRulesSchema>;

/** What is typed before an archive is destroyed, beside its ticket's number. */
export const DESTROY_WORD = 'destroy';

/** What can be said of one archive beside what its ticket agreed. */
export const keepingKinds = ['until', 'until-told', 'hold'] as const;
export type KeepingKind = (typeof keepingKinds)[number];
