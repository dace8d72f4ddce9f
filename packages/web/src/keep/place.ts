import { Hourglass } from 'lucide-react';
import type { Place } from '../app/place.js';

export const keep: Place = {
  pages: {
    '/keeping': async () => (await import('./keeping-page.js')).KeepingPage,
  },
  inHouse: { floor: 'downstairs', name: 'Keeping', icon: Hourglass },
  command: 'Go to what is kept, and until when',
  key: 'k',
};
