import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { nameAdapter, namedAddress, takeOwnAdapter } from './adapter.js';
import { updateDevice } from './updates.js';
import { drivePlaces } from '../settings/index.js';
import {
  connectStorage,
  letStorageGo,
  storageFolders,
  storagePlaces,
  type StorageBounds,
} from './storage.js';
import { benchView } from './view.js';

/** The bench, and what its devices do by themselves. */
export function benchRoutes({ answer, shop, config }: Served): void {
  const { db, bench } = shop;
  const places = async (): Promise<StorageBounds> => ({
    places: await drivePlaces(db),
    never: config.data,
  });
  answer(routes.bench, () => benchView(db, bench));
  answer(routes.updateDevice, async ({ context, params, body }) => {
    await updateDevice(context, params.deviceId, body.serialTail);
    return {};
  });
  answer(routes.adapter, async () => ({ named: await namedAddress(db) }));
  answer(routes.nameAdapter, ({ context, body }) => nameAdapter(context, body));
  answer(routes.takeOwnAdapter, async ({ context }) => {
    await takeOwnAdapter(context, config.link);
    return {};
  });
  answer(routes.storagePlaces, async () => storagePlaces(await places()));
  answer(routes.storageFolders, async ({ body }) => storageFolders(await places(), body.path));
  answer(routes.connectStorage, async ({ context, body }) =>
    connectStorage(context, await places(), body),
  );
  answer(routes.letStorageGo, async ({ context, params }) => {
    await letStorageGo(context, params.deviceId);
    return {};
  });
}
