import { ScrollText } from 'lucide-react';
import type { Place } from '../app/place.js';

export const settings: Place = {
  pages: { '/settings': async () => (await import('./settings-page.js')).SettingsPage },
  inHouse: { floor: 'foot', name: 'House rules', icon: ScrollText },
  command: 'Change the house rules',
};
