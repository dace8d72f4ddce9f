import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { openStore, tryStore, type StoreAddress } from '@bright-cellar/archive';
import { problemOf, type RackSite } from '@bright-cellar/core';
import { startBox, startObjects } from '@bright-cellar/rack-stand-ins';
import { eq } from 'drizzle-orm';
import { afterAll, expect, test } from 'vitest';
import { audit, racks } from '../database/schema.js';
import { makeLog } from '../log.js';
import type { Context } from '../shop.js';
import { testCatalogue } from '../testing/catalogue.js';
import { addRack, hostKey, tryRack } from './keeping.js';
import { listRacks } from './racks.js';
import { storeOf } from './stores.js';
import { RackWatch } from './watch.js';

/** Racks that this computer reaches over the network, as a shop adds them. */

const { db, acting } = await testCatalogue();
const orders = {
  ask: (_: unknown, { address }: { address: StoreAddress }) =>
    tryStore(openStore(address), 1_000_000),
};
const context = { ...acting, orders } as unknown as Context;
const watch = new RackWatch(acting, makeLog('server', 'silent'), () => Promise.resolve([]));
const box = await startBox();
const login = { accessKey: 'shop', secretKey: 'what the storage wants to hear' };
const storage = await startObjects({ bucket: 'cellar', login });
afterAll(async () => {
  box.stop();
  await storage.stop();
});
const rules = { note: '', reserve: 0, offPremises: true };
const onBox = (change: Partial<Extract<RackSite, { kind: 'sftp' }>> = {}): RackSite => {
  mkdirSync(join(box.folder, 'archives'), { recursive: true });
  const { host, port, user, hostKey: key } = box;
  const path = join(box.folder, 'archives');
  return { kind: 'sftp', host, port, user, path, hostKey: key, login: 'key', ...change };
};
const named = async (name: string) => (await listRacks(db)).find((rack) => rack.name === name);

test('a box shows its host key to be compared, is tried, and is a rack', async () => {
  expect(await hostKey(box)).toEqual({ hostKey: box.hostKey });
  const nobody = hostKey({ host: '127.0.0.1', port: 1 }).catch(problemOf);
  expect(await nobody).toMatchObject({ code: 'rack-not-here' });
  const place = { site: onBox(), secret: box.privateKey };
  expect(await tryRack(context, place)).toMatchObject({ isSound: true, keepsFirst: true });
  const rack = await addRack(context, { ...place, ...rules, name: 'Box', kind: 'box' });
  expect(rack).toMatchObject({ mounted: null, present: true, awayWhy: '' });
  expect(rack.where).toBe(`sftp://${box.user}@127.0.0.1:${box.port}${box.folder}/archives`);
  expect(rack.free).toBeGreaterThan(0);
});

test('so is a bucket, which says what may lie there', async () => {
  const site: RackSite = {
    ...{ kind: 'objects', endpoint: storage.address, region: 'here', bucket: 'cellar' },
    ...{ prefix: 'shop/', capacity: 5e9, accessKey: login.accessKey },
  };
  const place = { site, secret: login.secretKey };
  expect(await tryRack(context, place)).toMatchObject({ isSound: true, capacity: 5e9 });
  await addRack(context, { ...place, ...rules, name: 'Bucket', kind: 'objects' });
  await watch.look();
  expect(await named('Bucket')).toMatchObject({ present: true, capacity: 5e9, mounted: null });
  const wrong = tryRack(context, { site, secret: 'another' }).catch(problemOf);
  expect(await wrong).toMatchObject({ what: expect.stringContaining('refuses') as string });
});

test('what one signs in with is sealed in the row, and stands nowhere else', async () => {
  const rows = await db.select().from(racks);
  const all = JSON.stringify([rows, await db.select().from(audit), await listRacks(db)]);
  expect(all).not.toContain(login.secretKey);
  expect(all).not.toContain(box.privateKey.split('\n')[2]);
  // And opens with it all the same.
  for (const row of rows) expect(await storeOf(row).identity()).toBe(row.id);
});

test('one that shows another host key is away, says why, and is back when it was added again', async () => {
  const [row] = await db.select().from(racks).where(eq(racks.name, 'Box'));
  if (!row) throw new Error('no box');
  const place = { site: onBox({ hostKey: 'another' }), secret: box.privateKey };
  const other = JSON.stringify(row.address.value).replace(box.hostKey, 'another');
  await db
    .update(racks)
    .set({ address: { version: 2, value: JSON.parse(other) as object } })
    .where(eq(racks.id, row.id));
  await watch.look();
  expect(await named('Box')).toMatchObject({
    present: false,
    awayWhy: expect.stringContaining('another host key') as string,
  });
  expect(await tryRack(context, place).catch(problemOf)).toMatchObject({ code: 'rack-not-here' });
  const again = {
    site: onBox(),
    secret: box.privateKey,
    ...rules,
    name: 'Box',
    kind: 'box' as const,
  };
  expect((await addRack(context, again)).id).toBe(row.id);
  await watch.look();
  expect(await named('Box')).toMatchObject({ present: true, awayWhy: '' });
});
