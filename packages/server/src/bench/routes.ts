import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { updateDevice } from './updates.js';
import { benchView } from './view.js';

/** The bench, and what its devices do by themselves. */
export function benchRoutes({ answer, shop }: Served): void {
  answer(routes.bench, () => benchView(shop.db, shop.bench));
  answer(routes.updateDevice, async ({ context, params, body }) => {
    await updateDevice(context, params.deviceId, body.serialTail);
    return {};
  });
}
