import { Archive } from 'lucide-react';
import type { Place } from '../app/place.js';

export const archives: Place = {
  pages: {
    '/archives': async () => (await import('./archives-page.js')).ArchivesPage,
    '/archives/:id': async () => (await import('./archive-page.js')).ArchivePage,
  },
  inHouse: { floor: 'downstairs', name: 'Archives', icon: Archive },
  command: 'Go to the archives',
  key: 'a',
};
