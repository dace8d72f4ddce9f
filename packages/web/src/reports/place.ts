import { ChartNoAxesColumn } from 'lucide-react';
import type { Place } from '../app/place.js';

export const reports: Place = {
  pages: { '/today': async () => (await import('./reports-page.js')).ReportsPage },
  inHouse: { floor: 'upstairs', name: 'Today', icon: ChartNoAxesColumn },
  command: 'Look at today’s bench',
};
