import {
  ArchiveFiles,
  mustBeRack,
  openStore,
  type Store,
  type StoreAddress,
} from '@bright-cellar/archive';
import { Failure, type RackId } from '@bright-cellar/core';
import { eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { racks, type Versioned } from '../database/schema.js';
import { addressOf } from './addresses.js';

/** A folder of this computer, whether a rack lies there or not. */
export function folderStore(path: string): Store {
  const address: StoreAddress = { kind: 'folder', path };
  return openStore(address);
}

/**
 * A rack, by what its row says. That it is there is known with the first thing that is asked of it.
 * @throws Failure `rack-not-here` where what one signs in with does not open
 */
export const storeOf = ({ address }: { address: Versioned }): Store =>
  openStore(addressOf(address));

/**
 * A rack that is here now. Whatever is mounted there now: the folder of a drive that left is on the system's
 * own disk.
 * @throws Failure `not-found`, `rack-not-here`
 */
export async function rackHere(db: Database, id: RackId) {
  const [rack] = await db.select().from(racks).where(eq(racks.id, id));
  if (!rack || rack.retiredAt) throw new Failure('not-found');
  const store = storeOf(rack);
  await mustBeRack(store, rack.id);
  return { ...rack, store };
}

/** What lies on a rack that is here. @throws Failure `not-found`, `rack-not-here` */
export async function archiveAt(
  db: Database,
  { rackId, folder }: { rackId: RackId; folder: string },
): Promise<ArchiveFiles> {
  return new ArchiveFiles((await rackHere(db, rackId)).store, folder);
}

/** Racks that are here now, each the very one. */
export async function presentRacks(db: Database) {
  const rows = await db.select().from(racks).where(isNull(racks.retiredAt));
  const found = await Promise.all(
    rows.map(async (rack) => {
      try {
        const store = storeOf(rack);
        return (await store.identity()) === rack.id ? [{ ...rack, store }] : [];
      } catch {
        return [];
      }
    }),
  );
  return found.flat();
}

/**
 * The folder of a rack, for what lies there beside archives: packages, open files, what somebody recovered.
 * @throws Failure `rack-not-mounted` where it is no folder of this computer
 */
export function folderOf({ name, store }: { name: string; store: Store }): string {
  if (store.mounted === null) {
    throw new Failure('rack-not-mounted', {
      what: `${name} is not mounted on this computer: only archives lie there.`,
    });
  }
  return store.mounted;
}
