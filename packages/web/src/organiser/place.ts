import type { Place } from '../app/place.js';

export const organiser: Place = {
  pages: {
    '/tickets/:number/organiser': async () => (await import('./organiser-page.js')).OrganiserPage,
  },
};
