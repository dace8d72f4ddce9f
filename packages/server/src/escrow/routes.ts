import { routes } from '@bright-cellar/contract';
import { archiveById } from '../archives/index.js';
import type { Served } from '../served.js';
import { escrowView, openByEscrow, setUpEscrow } from './escrow.js';

/** The shop's escrow. */
export function escrowRoutes({ answer, shop: { db } }: Served): void {
  answer(routes.escrow, () => escrowView(db));
  answer(routes.setUpEscrow, async ({ context, body }) => {
    await setUpEscrow(context, body.people);
    return escrowView(db);
  });
  answer(routes.openByEscrow, async ({ context, params, body }) => {
    await openByEscrow(context, params.id, body);
    return archiveById(db, params.id);
  });
}
