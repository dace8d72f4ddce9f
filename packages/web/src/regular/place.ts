import { CalendarClock } from 'lucide-react';
import type { Place } from '../app/place.js';

export const regular: Place = {
  pages: { '/regular': async () => (await import('./regular-page.js')).RegularPage },
  inHouse: { floor: 'upstairs', name: 'Regular', icon: CalendarClock },
  command: 'Go to what is taken regularly',
};
