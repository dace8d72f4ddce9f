import type { Place } from '../app/place.js';

const page = async () => (await import('./intake-page.js')).IntakePage;

export const intake: Place = {
  pages: { '/tickets/new': page, '/tickets/new/:deviceId': page },
  command: 'New ticket for a dead device',
};
