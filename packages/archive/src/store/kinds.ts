import { z } from 'zod';
import { FolderStore, folderAddressSchema } from './folder-store.js';
import { objectsAddressSchema } from './objects/address.js';
import { lazyMedium } from './remote/lazy-medium.js';
import type { Medium } from './remote/medium.js';
import { RemoteStore } from './remote/remote-store.js';
import { sftpAddressSchema } from './sftp/address.js';
import type { Address, Store } from './store.js';

const kind = <Address extends z.ZodObject>(
  address: Address,
  open: (address: z.infer<Address>) => Store,
) => ({ address, open: (kept: unknown) => open(address.parse(kept)) });

/** Every kind of rack there is. One line adds one, and its address below. */
const kinds = {
  folder: kind(folderAddressSchema, ({ path }) => new FolderStore(path)),
  sftp: kind(sftpAddressSchema, (address) =>
    remote(address, async () => {
      const { SftpConnection, SftpMedium } = await import('./sftp/index.js');
      return new SftpMedium(new SftpConnection(address));
    }),
  ),
  objects: kind(objectsAddressSchema, (address) =>
    remote(address, async () => {
      const { ObjectMedium } = await import('./objects/object-medium.js');
      return new ObjectMedium(address);
    }),
  ),
};

/** What a process has open, by its address: one session for each box, whoever asks for its rack. */
const media = new Map<string, Medium>();

const keyOf = (address: Address) => JSON.stringify(address);

function remote(address: Address & { workRoot: string }, load: () => Promise<Medium>): Store {
  const key = keyOf(address);
  const medium = media.get(key) ?? lazyMedium(load);
  media.set(key, medium);
  return new RemoteStore(medium, { address, workRoot: address.workRoot, key });
}

/** Lets go of an address, and of the secret in it: of a place that was only tried. Whoever still uses its rack opens it anew. */
export const forgetStore = (address: StoreAddress): void =>
  void media.delete(keyOf(storeAddressSchema.parse(address)));

/** Where a rack is, by its kind: enough to open it in any thread or process of this computer. */
export const storeAddressSchema = z.discriminatedUnion('kind', [
  kinds.folder.address,
  kinds.sftp.address,
  kinds.objects.address,
]);
export type StoreAddress = z.infer<typeof storeAddressSchema>;

/**
 * Opens a rack; that it is there is known with the first thing that is asked of it.
 * @throws ZodError where it is no address of any kind
 */
export function openStore(address: Address): Store {
  const parsed = storeAddressSchema.parse(address);
  return kinds[parsed.kind].open(parsed);
}
