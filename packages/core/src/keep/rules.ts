import { z } from 'zod';

/** What the shop decided of what it destroys. */
export const disposalRulesSchema = z.object({
  /** Once everything of a customer is destroyed, their name, number and address go from the catalogue too. */
  forgetsNames: z.boolean(),
});
export type DisposalRules = z.infer<typeof disposalRulesSchema>;

/** What is typed before an archive is destroyed, beside its ticket's number. */
export const DESTROY_WORD = 'destroy';

/** What can be said of one archive beside what its ticket agreed. */
export const keepingKinds = ['until', 'until-told', 'hold'] as const;
export type KeepingKind = (typeof keepingKinds)[number];
