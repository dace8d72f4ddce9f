import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { dayReport, dayRuns } from './reports.js';

export function reportRoutes({ answer, shop: { db } }: Served): void {
  answer(routes.dayReport, ({ query }) => dayReport(db, query.day));
  answer(routes.dayRuns, ({ query }) => dayRuns(db, query));
}
