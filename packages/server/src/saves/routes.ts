import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { offerRecoveryKey, useRecoveryKey } from './saves.js';

/** The catalogue, saved onto the racks. */
export function saveRoutes({ answer, saves }: Served): void {
  answer(routes.saves, () => saves.view());
  answer(routes.saveCatalogue, async () => {
    await saves.save();
    return saves.view();
  });
  answer(routes.offerRecoveryKey, () => offerRecoveryKey());
  answer(routes.useRecoveryKey, async ({ context, body }) => {
    await useRecoveryKey(context, body.recipient);
    return saves.view();
  });
}
