import type { Place } from '../app/place.js';

export const account: Place = {
  pages: { '/account': async () => (await import('./account-page.js')).AccountPage },
};
