import type { Place } from '../app/place.js';

export const network: Place = {
  pages: { '/network': async () => (await import('./network-page.js')).NetworkPage },
  command: 'Let other computers and phones in',
  permission: 'house-rules',
};
