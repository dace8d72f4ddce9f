import { join } from 'node:path';
import { mustBeRack, rackRoom } from '@bright-cellar/archive';
import { Failure, formatBytes } from '@bright-cellar/core';
import type { Rack } from '@bright-cellar/contract';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { racks } from '../database/schema.js';

/** Open files lie in a folder of their own on a rack, by ticket. */
export const EXTRACTS = 'extracts';

/** Every rack, with the room it has now. */
export async function listRacks(db: Database): Promise<Rack[]> {
  const rows = await db
    .select({
      id: racks.id,
      name: racks.name,
      path: racks.path,
      reserve: racks.reserve,
      archives: racks.archives,
      storedBytes: racks.storedBytes,
    })
    .from(racks)
    .orderBy(racks.name);
  return Promise.all(
    rows.map(async (row) => {
      const room = await rackRoom(row.path, row.id).catch(() => null);
      return {
        ...row,
        present: room !== null,
        capacity: room?.capacity ?? 0,
        free: room?.free ?? 0,
      };
    }),
  );
}

/** The rack, when it can take so many bytes and still keep its reserve. @throws Failure `not-found`, `rack-not-here`, `rack-full`. */
export async function rackWithRoom(db: Database, id: string, bytes: number) {
  const [rack] = await db.select().from(racks).where(eq(racks.id, id));
  if (!rack) throw new Failure('not-found');
  const { free } = await rackRoom(rack.path, rack.id);
  if (free - bytes < rack.reserve) {
    throw new Failure('rack-full', {
      what: `${rack.name} has ${formatBytes(free)} free and keeps ${formatBytes(rack.reserve)} in reserve; this backup needs ${formatBytes(bytes)}.`,
      safe: 'Nothing was started.',
    });
  }
  return rack;
}

/** Racks that are here now, each the very one. */
export async function presentRacks(db: Database) {
  return (await db.select().from(racks)).filter(({ id, path }) => {
    try {
      mustBeRack(path, id);
      return true;
    } catch {
      return false;
    }
  });
}

/**
 * A rack that is here now, and where. Whatever is mounted there now: the folder of a drive that left is on the system's
 * own disk.
 * @throws Failure `not-found`, `rack-not-here`
 */
export async function rackHere(db: Database, id: string) {
  const [rack] = await db.select().from(racks).where(eq(racks.id, id));
  if (!rack) throw new Failure('not-found');
  mustBeRack(rack.path, rack.id);
  return rack;
}

/** The path of what lies on a rack that is here. @throws Failure `not-found`, `rack-not-here` */
export async function placeOnRack(
  db: Database,
  { rackId, folder }: { rackId: string; folder: string },
): Promise<string> {
  return join((await rackHere(db, rackId)).path, folder);
}
