import { existsSync } from 'node:fs';
import { ArchiveFiles, rackRoom, type Store } from '@bright-cellar/archive';
import {
  Failure,
  formatBytes,
  rackCode,
  rackNumberOf,
  siteWords,
  type RackId,
} from '@bright-cellar/core';
import type { Rack } from '@bright-cellar/contract';
import { eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { racks } from '../database/schema.js';
import { mountedAt, siteOf } from './addresses.js';
import { storeOf } from './stores.js';

/** Open files lie in a folder of their own on a rack, by ticket. */
export const EXTRACTS = 'extracts';

/** Every rack, with the room that it had when it was looked at last: a moment ago where it is here. */
export async function listRacks(db: Database): Promise<Rack[]> {
  return (await inUse(db)).map(shownRack);
}

/** The same, each asked at this moment: for whoever decides what goes onto which. */
export async function racksNow(db: Database): Promise<Rack[]> {
  return Promise.all(
    (await inUse(db)).map(async (row) => {
      // A box that was not reached a moment ago keeps nobody waiting.
      const isAsked = row.present || mountedAt(row.address) !== null;
      const room = isAsked ? await roomOf(row).catch(() => null) : null;
      return shownRack({ ...row, present: room !== null, ...room });
    }),
  );
}

const roomOf = async (row: typeof racks.$inferSelect) => rackRoom(storeOf(row), row.id);

const inUse = (db: Database) =>
  db.select().from(racks).where(isNull(racks.retiredAt)).orderBy(racks.name);

export const shownRack = ({
  address,
  seenAt,
  number,
  retiredAt,
  ...rack
}: typeof racks.$inferSelect): Rack => ({
  ...rack,
  code: rackCode(number),
  retiredAt: retiredAt?.toISOString() ?? null,
  mounted: mountedAt(address),
  where: siteWords(siteOf(address)),
  free: rack.present ? rack.free : 0,
  seenAt: seenAt?.toISOString() ?? null,
});

/** Racks, also those out of use, by a few letters of what people call them, or by the number on their label. */
export async function findRacks(db: Database, text: string): Promise<Rack[]> {
  const number = rackNumberOf(text);
  const all = (await db.select().from(racks).orderBy(racks.name)).map(shownRack);
  return all.filter(
    ({ name, note, code }) =>
      `${name} ${note}`.toLowerCase().includes(text) ||
      (number !== null && code === rackCode(number)),
  );
}

/** The rack, when it can take so many bytes and still keep its reserve. @throws Failure `not-found`, `rack-not-here`, `rack-full`. */
export async function rackWithRoom(db: Database, id: RackId, bytes: number) {
  const [rack] = await db.select().from(racks).where(eq(racks.id, id));
  if (!rack || rack.retiredAt) throw new Failure('not-found');
  const store = storeOf(rack);
  const { free } = await rackRoom(store, rack.id);
  if (free - bytes < rack.reserve) {
    throw new Failure('rack-full', {
      what: `${rack.name} has ${formatBytes(free)} free and keeps ${formatBytes(rack.reserve)} in reserve; this backup needs ${formatBytes(bytes)}.`,
      safe: 'Nothing was started.',
    });
  }
  return { ...rack, store };
}

/**
 * A name that no archive on a rack has, and none that was begun: a second archive of one minute gets a number.
 * @param isOurs whether what was begun under a name is what goes on now
 */
export async function freeName(
  store: Store,
  name: string,
  isOurs: (files: ArchiveFiles) => Promise<boolean> = async () => false,
): Promise<string> {
  for (let n = 1; ; n++) {
    const numbered = n === 1 ? name : `${name}-${n}`;
    const { root, isNew } = await store.work(numbered);
    if (!isNew) continue;
    const files = new ArchiveFiles(store, numbered);
    const isBegun = existsSync(root) || (await (await files.incoming()).list()).length > 0;
    if (!isBegun || (await isOurs(files))) return numbered;
  }
}
