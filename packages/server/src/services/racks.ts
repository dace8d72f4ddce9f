import { mustBeRack, rackRoom } from '@bright-cellar/archive';
import { Failure, formatBytes } from '@bright-cellar/core';
import type { Rack } from '@bright-cellar/contract';
import { count, eq, sum } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { copies, racks } from '../database/schema.js';

/** Every rack, with the room it has now. */
export async function listRacks(db: Database): Promise<Rack[]> {
  const rows = await db
    .select({
      id: racks.id,
      name: racks.name,
      path: racks.path,
      reserve: racks.reserve,
      archives: count(copies.id),
      storedBytes: sum(copies.storedBytes),
    })
    .from(racks)
    .leftJoin(copies, eq(copies.rackId, racks.id))
    .groupBy(racks.id)
    .orderBy(racks.name);
  return Promise.all(
    rows.map(async (row) => {
      const room = await rackRoom(row.path, row.id).catch(() => null);
      return {
        ...row,
        storedBytes: Number(row.storedBytes ?? 0),
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
