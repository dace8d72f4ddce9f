import type { Place } from '../app/place.js';

export const plan: Place = {
  pages: { '/tickets/:number/plan': async () => (await import('./plan-page.js')).PlanPage },
};
