import type { Place } from '../app/place.js';

export const day: Place = {
  pages: { '/day': async () => (await import('./day-page.js')).DayPage },
  command: 'Open or close the shop: the day’s sheet',
};
