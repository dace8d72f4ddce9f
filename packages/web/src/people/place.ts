import { UsersRound } from 'lucide-react';
import type { Place } from '../app/place.js';

export const people: Place = {
  pages: { '/people': async () => (await import('./people-page.js')).PeoplePage },
  inHouse: { floor: 'foot', name: 'People', icon: UsersRound },
  command: 'Say who works here',
  permission: 'people',
};
