import type { Place } from '../app/place.js';

export const ticket: Place = {
  pages: {
    '/tickets/:number': async () => (await import('./ticket-page.js')).TicketPage,
    '/tickets/:number/handover': async () => (await import('./handover-page.js')).HandoverPage,
  },
};
