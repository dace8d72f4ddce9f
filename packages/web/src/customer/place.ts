import type { Place } from '../app/place.js';

export const customer: Place = {
  pages: { '/customers/:id': async () => (await import('./customer-page.js')).CustomerPage },
};
