import type { Place } from '../app/place.js';

export const look: Place = {
  pages: { '/look/:id': async () => (await import('./look-page.js')).LookPage },
  permission: 'look-in',
};
