import type { Place } from '../app/place.js';

export const ticket: Place = {
  pages: { '/tickets/:number': async () => (await import('./ticket-page.js')).TicketPage },
};
