/** Whose word counts where both sides changed the same. */
export const conflictRules = ['ask', 'device', 'partner', 'newer', 'both'] as const;
export type ConflictRule = (typeof conflictRules)[number];
/** What somebody decided of one of them. */
export const decisions = ['device', 'partner', 'both'] as const;
export type Decision = (typeof decisions)[number];

export const syncDirections = ['both', 'onto-device', 'off-device'] as const;
export type SyncDirection = (typeof syncDirections)[number];
