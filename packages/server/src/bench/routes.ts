import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { updateDevice } from './updates.js';
import { connectStorage, letStorageGo, storageFolders, storagePlaces } from './storage.js';
import { benchView } from './view.js';

/** The bench, and what its devices do by themselves. */
export function benchRoutes({ answer, shop, config: { drivePlaces } }: Served): void {
  answer(routes.bench, () => benchView(shop.db, shop.bench));
  answer(routes.updateDevice, async ({ context, params, body }) => {
    await updateDevice(context, params.deviceId, body.serialTail);
    return {};
  });
  answer(routes.storagePlaces, () => storagePlaces(drivePlaces));
  answer(routes.storageFolders, ({ body }) => storageFolders(drivePlaces, body.path));
  answer(routes.connectStorage, ({ context, body }) => connectStorage(context, drivePlaces, body));
  answer(routes.letStorageGo, async ({ context, params }) => {
    await letStorageGo(context, params.deviceId);
    return {};
  });
}
