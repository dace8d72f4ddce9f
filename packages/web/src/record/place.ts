import { Stamp } from 'lucide-react';
import type { Place } from '../app/place.js';

export const record: Place = {
  pages: { '/record': async () => (await import('./record-page.js')).RecordPage },
  inHouse: { floor: 'foot', name: 'Record', icon: Stamp },
  command: 'Read the record of who did what',
  permission: 'audit',
};
