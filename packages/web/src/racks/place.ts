import { Columns3 } from 'lucide-react';
import type { Place } from '../app/place.js';

export const racks: Place = {
  pages: {
    '/racks': async () => (await import('./racks-page.js')).RacksPage,
    '/racks/label/:code': async () => (await import('./rack-by-label.js')).RackByLabel,
    '/racks/bring-in': async () => (await import('./bring-in-page.js')).BringInPage,
    '/racks/plan': async () => (await import('./moves/plan-page.js')).PlanPage,
    '/racks/moves/:id': async () => (await import('./moves/move-page.js')).MovePage,
    '/racks/:id': async () => (await import('./rack-page.js')).RackPage,
  },
  inHouse: { floor: 'downstairs', name: 'Racks', icon: Columns3 },
  command: 'Go to the racks',
  key: 'r',
};
