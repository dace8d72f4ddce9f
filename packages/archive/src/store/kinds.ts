import { z } from 'zod';
import { FolderStore, folderAddressSchema } from './folder-store.js';
import type { Address, Store } from './store.js';

const kind = <Address extends z.ZodObject>(
  address: Address,
  open: (address: z.infer<Address>) => Store,
) => ({ address, open: (kept: unknown) => open(address.parse(kept)) });

/** Every kind of rack there is. One line adds one, and its address below. */
const kinds = {
  folder: kind(folderAddressSchema, ({ path }) => new FolderStore(path)),
};

/** Where a rack is, by its kind: enough to open it in any thread or process of this computer. */
export const storeAddressSchema = z.discriminatedUnion('kind', [kinds.folder.address]);
export type StoreAddress = z.infer<typeof storeAddressSchema>;

/**
 * Opens a rack; that it is there is known with the first thing that is asked of it.
 * @throws ZodError where it is no address of any kind
 */
export function openStore(address: Address): Store {
  const parsed = storeAddressSchema.parse(address);
  return kinds[parsed.kind].open(parsed);
}
