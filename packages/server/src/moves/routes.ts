import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { lastMove, listSteps, plannedNow } from './steps.js';
import { stockPage, stockRacks } from './stock.js';

/** Move plans: what they are made from, and how far one that is carried out is. */
export function moveRoutes({ answer, shop: { db } }: Served): void {
  answer(routes.stock, () => stockRacks(db));
  answer(routes.stockPage, ({ query }) => stockPage(db, query));
  answer(routes.plannedMoves, () => plannedNow(db));
  answer(routes.moveSteps, ({ params }) => listSteps(db, params.id));
  answer(routes.lastMove, async () => ({ id: await lastMove(db) }));
}
