import type { Place } from '../app/place.js';

export const bringBack: Place = {
  pages: {
    '/tickets/:number/messages-back': async () =>
      (await import('./bring-back-page.js')).BringBackPage,
  },
};
