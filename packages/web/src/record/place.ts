import { ScrollText } from 'lucide-react';
import type { Place } from '../app/place.js';

export const record: Place = {
  pages: { '/record': async () => (await import('./record-page.js')).RecordPage },
  inHouse: { floor: 'foot', name: 'Record', icon: ScrollText },
  command: 'Read the record of who did what',
  permission: 'audit',
};
