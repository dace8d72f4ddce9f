import { Store } from 'lucide-react';
import type { Place } from '../app/place.js';

export const counter: Place = {
  pages: { '/': async () => (await import('./counter-page.js')).CounterPage },
  inHouse: { floor: 'upstairs', name: 'Counter', icon: Store },
  command: 'Go to the counter',
  key: 'c',
};
