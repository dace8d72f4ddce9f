import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { keepPlan, plansFor } from './plans.js';

/** Deciding what is taken. */
export function planRoutes({ answer, shop: { db, planning } }: Served): void {
  answer(routes.listing, ({ context, params }) => planning.listing(context, params.number));
  answer(routes.planCost, ({ params, body }) => planning.cost(params.number, body));
  answer(routes.plans, ({ context, params }) =>
    plansFor(db, params.number, context.actor.technicianId),
  );
  answer(routes.savePlan, async ({ context, params, body: { name, ...scope } }) => {
    await keepPlan(context, params.number, scope, name);
    return plansFor(db, params.number, context.actor.technicianId);
  });
}
