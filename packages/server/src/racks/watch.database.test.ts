import { randomUUID } from 'node:crypto';
import { mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { markRack, openStore, rackRoom } from '@bright-cellar/archive';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, expect, test } from 'vitest';
import { outbox, rackDays, racks } from '../database/schema.js';
import { makeLog } from '../log.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newRackId } from '../testing/ids.js';
import { listRacks } from './racks.js';
import { keptAddress } from './addresses.js';
import { RackWatch } from './watch.js';

const { db, acting, clock, told } = await testCatalogue();
const folder = await mkdtemp(join(tmpdir(), 'cellar-watch-'));
afterAll(() => rm(folder, { recursive: true }));
// What others write to the same disk meanwhile is no news of this rack.
const watch = new RackWatch(
  acting,
  makeLog('server', 'silent'),
  () => Promise.resolve([]),
  async (...rack) => ({ ...(await rackRoom(...rack)), free: 1_000_000 }),
);

const addressOf = (at: string) => ({ kind: 'folder' as const, path: at });
const storeAt = (path: string) => openStore(addressOf(path));
let id = newRackId();
let path: string;
const now = async () => (await listRacks(db)).find((rack) => rack.id === id);

beforeEach(async () => {
  await db.delete(outbox);
  await db.delete(rackDays);
  await db.delete(racks);
  id = newRackId();
  path = join(folder, id);
  await mkdir(path);
  await markRack(storeAt(path), id);
  await db
    .insert(racks)
    .values({ id, name: 'Alder', address: keptAddress(addressOf(path)), reserve: 0 });
});

test('a rack is here with its room from the first look on, and nobody is told twice of the same', async () => {
  expect(await now()).toMatchObject({ present: false, free: 0, seenAt: null });
  await watch.look();
  const seen = await now();
  expect(seen).toMatchObject({ present: true, seenAt: clock.now().toISOString() });
  expect(seen?.free).toBeGreaterThan(0);
  expect(seen?.capacity).toBeGreaterThanOrEqual(seen?.free ?? 0);
  expect(await told()).toEqual([`rack ${id}`]);
  await watch.look();
  expect(await told()).toEqual([`rack ${id}`]);
});

test('one that leaves is away, and is known to have been seen until then; it comes back as it was', async () => {
  await watch.look();
  clock.forward(90_000);
  await watch.look();
  const seen = clock.now().toISOString();
  const capacity = (await now())?.capacity;
  await rename(path, `${path}.away`);
  clock.forward(3_600_000);
  await watch.look();
  expect(await now()).toMatchObject({ present: false, free: 0, capacity, seenAt: seen });
  await rename(`${path}.away`, path);
  await watch.look();
  expect(await now()).toMatchObject({ present: true, seenAt: clock.now().toISOString() });
  expect(await told()).toEqual([`rack ${id}`, `rack ${id}`, `rack ${id}`]);
});

test('another drive in its place is not it', async () => {
  await markRack(storeAt(path), randomUUID());
  await watch.look();
  expect(await now()).toMatchObject({ present: false, seenAt: null });
});

test('room that somebody else took is news, a few bytes are not', async () => {
  await watch.look();
  const free = (await now())?.free ?? 0;
  await db
    .update(racks)
    .set({ free: free + 50_000_000 })
    .where(eq(racks.id, id));
  await watch.look();
  expect(Math.abs(((await now())?.free ?? 0) - free)).toBeLessThan(50_000_000);
  expect(await told()).toHaveLength(2);
});
