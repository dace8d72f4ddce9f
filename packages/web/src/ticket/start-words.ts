import type { PlanMode } from '@bright-cellar/core';

/** The button that starts a backup, by what it takes. */
export const startWords: Record<PlanMode, string> = {
  everything: 'Take the full backup',
  quick: 'Take the quick set',
  chosen: 'Take what is chosen',
};
