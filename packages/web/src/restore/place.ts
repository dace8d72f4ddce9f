import type { Place } from '../app/place.js';

export const restore: Place = {
  pages: {
    '/restore/:archiveId/:backupId': async () => (await import('./restore-page.js')).RestorePage,
  },
};
