import { z } from 'zod';
import { FolderStore, folderAddressSchema } from './folder-store.js';
import type { Store } from './store.js';

/** Where a rack is, by its kind: enough to open it in any thread or process of this computer. */
export const storeAddressSchema = z.discriminatedUnion('kind', [folderAddressSchema]);
export type StoreAddress = z.infer<typeof storeAddressSchema>;
type Kind = StoreAddress['kind'];

/** Every kind of rack there is. */
const kinds: { [K in Kind]: (address: Extract<StoreAddress, { kind: K }>) => Store } = {
  folder: ({ path }) => new FolderStore(path),
};

/** Opens a rack; that it is there is known with the first thing that is asked of it. */
export const openStore = (address: StoreAddress): Store => kinds[address.kind](address);
