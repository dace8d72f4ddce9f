import { HeartPulse } from 'lucide-react';
import type { Place } from '../app/place.js';

export const condition: Place = {
  pages: { '/condition': async () => (await import('./condition-page.js')).ConditionPage },
  inHouse: { floor: 'foot', name: 'Condition', icon: HeartPulse },
  command: 'See how the installation is',
};
