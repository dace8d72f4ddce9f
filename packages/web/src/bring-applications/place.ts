import type { Place } from '../app/place.js';

export const bringApplications: Place = {
  pages: {
    '/tickets/:number/applications-back': async () =>
      (await import('./bring-applications-page.js')).BringApplicationsPage,
  },
};
