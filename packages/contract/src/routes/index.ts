import { accountRoutes } from './account.js';
import { archivesRoutes } from './archives.js';
import { benchRoutes } from './bench.js';
import { dayRoutes } from './day.js';
import { deskRoutes } from './desk.js';
import { findRoutes } from './find.js';
import { lookInsRoutes } from './look-ins.js';
import { operationsRoutes } from './operations.js';
import { organiserRoutes } from './organiser.js';
import { peopleRoutes } from './people.js';
import { plansRoutes } from './plans.js';
import { racksRoutes } from './racks.js';
import { regularRoutes } from './regular.js';
import { restoreRoutes } from './restore.js';
import { shopRoutes } from './shop.js';
import { signInRoutes } from './sign-in.js';
import { ticketsRoutes } from './tickets.js';

export { startRouteOf } from './operations.js';
export { newTicketSchema, type NewTicket } from './tickets.js';

/** Every route there is, a file a subject. */
export const routes = {
  ...accountRoutes,
  ...archivesRoutes,
  ...benchRoutes,
  ...dayRoutes,
  ...deskRoutes,
  ...findRoutes,
  ...lookInsRoutes,
  ...operationsRoutes,
  ...organiserRoutes,
  ...peopleRoutes,
  ...plansRoutes,
  ...racksRoutes,
  ...regularRoutes,
  ...restoreRoutes,
  ...shopRoutes,
  ...signInRoutes,
  ...ticketsRoutes,
} as const;

export type RouteName = keyof typeof routes;
