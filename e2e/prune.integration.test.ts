import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import type { Archive, Care, Rack } from '@bright-cellar/contract';
import { expect, test } from 'vitest';
import { resultOf } from './api.js';
import { openShop } from './open-shop.js';
import { eventually, openOwned, OWNED, PASSWORD } from './product.js';

const { product, api } = await openShop();
await openOwned(product);
const made = await api.provenBackup(OWNED);
const { archiveId } = made;
for (const text of ['a second note', 'a third note']) {
  await product.press(OWNED, { do: 'write-note', text });
  const further = await api.startBackup(await api.openTicket(OWNED), { archiveId });
  await api.ended(further.body.id);
}
const archive = async () => (await api.get<Archive>(`/api/archives/${archiveId}`)).body;
const prune = (keep: readonly string[], password = PASSWORD, path = '') =>
  api.post<{ id: string; freedBytes: number }>(`/api/archives/${archiveId}/prunings${path}`, {
    ...{ keep, password },
  });
const folders = async () => {
  const { body: racks } = await api.get<Rack[]>('/api/racks');
  return (await archive()).copies.map(({ rackId, folder }) =>
    join(racks.find(({ id }) => id === rackId)?.mounted ?? '', folder),
  );
};
const mustBeWhole = (cwd: string) =>
  execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd });

test('old backups go, what stays is proven, and the other copy is brought up to date', async () => {
  const [alder, birch] = (await api.get<Rack[]>('/api/racks')).body;
  for (const rack of [alder, birch]) {
    const copied = await api.post(`/api/archives/${archiveId}/copies`, { rackId: rack?.id });
    if (copied.status === 200) await api.ended(copied.body.id);
  }
  const { backups, storedBytes } = await archive();
  expect(backups).toHaveLength(3);
  const keep = [backups[0]?.id ?? ''];

  expect((await prune(keep, 'not the password at all')).body.code).toBe('wrong-password');
  expect((await prune(backups.map(({ id }) => id))).body.code).toBe('input-not-valid');
  expect((await prune([archiveId])).body.code).toBe('input-not-valid');
  expect((await archive()).backups).toHaveLength(3);

  const weighed = (await prune(keep, PASSWORD, '/weigh')).body.freedBytes;
  const started = await prune(keep);
  expect(started.status).toBe(200);
  const done = resultOf(await api.ended(started.body.id), 'prune');
  expect(done).toMatchObject({ gone: 2, storedBytes: storedBytes - done.freedBytes });
  expect(done.freedBytes).toBeGreaterThan(0);
  // Foretold from packs alone: lists and indexes come to little.
  expect(Math.abs(done.freedBytes - weighed)).toBeLessThan(storedBytes / 20);

  const pruned = await archive();
  expect(pruned.backups.map(({ id }) => id)).toEqual(keep);
  expect(pruned.provenAt).not.toBeNull();
  expect(pruned.copies.map(({ isNewest }) => isNewest).sort()).toEqual([false, true]);
  for (const folder of await folders()) mustBeWhole(folder);
  const old = await api.post(`/api/backups/${made.backupId}/proofs`, {
    ...{ level: 'full', password: PASSWORD },
  });
  expect(old.status).toBe(404);

  await api.post('/api/care/pay');
  await eventually('nothing to be owed', async () => {
    const { owed, paying } = (await api.get<Care>('/api/care')).body;
    return owed.total === 0 && !paying;
  });
  expect((await archive()).copies.map(({ isNewest, state }) => [isNewest, state])).toEqual([
    [true, 'whole'],
    [true, 'whole'],
  ]);
  for (const folder of await folders()) mustBeWhole(folder);
});

test('a copy that still holds what was taken out elsewhere is looked at by what it holds', async () => {
  await product.press(OWNED, { do: 'write-note', text: 'a fourth note' });
  const further = await api.startBackup(await api.openTicket(OWNED), { archiveId });
  expect((await api.ended(further.body.id)).state).toBe('done');
  await api.post('/api/care/pay');
  await eventually('a copy that is up to date', async () =>
    (await archive()).copies.every(({ isNewest }) => isNewest),
  );
  const [newest] = (await archive()).backups;
  const started = await prune([newest?.id ?? '']);
  expect((await api.ended(started.body.id)).state).toBe('done');
  const stale = (await archive()).copies.find(({ isNewest }) => !isNewest);
  const check = await api.post(`/api/copies/${stale?.id}/checks`, {});
  expect((await api.ended(check.body.id)).state).toBe('done');
  expect((await archive()).copies.map(({ state }) => state)).toEqual(['whole', 'whole']);
});
