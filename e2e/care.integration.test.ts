import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, Care, Look, Rack } from '@bright-cellar/contract';
import type { RackHealth } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import { resultOf } from './api.js';
import { openShop } from './open-shop.js';
import { eventually, openOwned, OWNED, PASSWORD } from './product.js';

/** What the house rules ask for what is kept: copies that are owed, checks of them, and what those find. */
const { product, api } = await openShop();
await openOwned(product);
const { archiveId } = await api.provenBackup(OWNED);

const archive = async () => (await api.get<Archive>(`/api/archives/${archiveId}`)).body;
const care = async () => (await api.get<Care>('/api/care')).body;
const racks = async () => (await api.get<Rack[]>('/api/racks')).body;
const rules = async (change: object) => {
  const { body } = await api.houseRules({});
  return api.houseRules({ care: { ...body.care, ...change } });
};
const paid = () =>
  eventually('nothing to be owed', async () => {
    const { owed, paying } = await care();
    return owed.total === 0 && !paying;
  });
async function copyOn(name: string) {
  const copy = (await archive()).copies.find(({ rackName }) => rackName === name);
  if (!copy) throw new Error(`no copy on ${name}`);
  const { mounted } = (await racks()).find((rack) => rack.name === name) ?? {};
  return { ...copy, path: join(mounted ?? '', copy.folder) };
}
const check = async (copyId: string) => {
  const started = await api.post(`/api/copies/${copyId}/checks`, {});
  expect(started.status).toBe(200);
  return api.ended(started.body.id);
};

describe('copies that the house rules ask for', () => {
  test('are owed from the moment that they are asked for, and made with one press', async () => {
    expect(await care()).toMatchObject({ owed: { total: 0, rows: [] }, paying: false });
    await rules({ copies: '2' });
    const owed = (await care()).owed.rows[0];
    expect(owed).toMatchObject({ archiveId, copies: 1, offPremises: false, why: null });
    const here = (await archive()).copies.map(({ rackName }) => rackName);
    expect(here).not.toContain(owed?.rackName);
    await api.post('/api/care/pay');
    await paid();
    expect((await archive()).copies.map(({ state }) => state)).toEqual(['whole', 'whole']);
    const birch = (await racks()).find(({ name }) => name === owed?.rackName);
    const { body } = await api.get<{ looks: Look[] }>(`/api/racks/${birch?.id}/looks`);
    expect(body.looks).toMatchObject([{ archiveId, level: 'bytes', outcome: 'whole' }]);
  });

  test('one off the premises is owed until a rack stands there', async () => {
    await rules({ offPremises: true });
    const [owed] = (await care()).owed.rows;
    expect(owed).toMatchObject({ rackName: null, offPremises: true });
    expect(owed?.why).toMatch(/off the premises/);
    const birch = (await racks()).find(({ name }) => name === 'Birch');
    const { name, note, reserve } = birch ?? { name: '', note: '', reserve: 0 };
    const change = { ...{ name, note, reserve }, offPremises: true };
    expect((await api.send('PUT', `/api/racks/${birch?.id}`, change)).status).toBe(200);
    expect((await care()).owed.total).toBe(0);
  });

  test('a later backup makes the others older: they are owed what is new, also where fewer are asked for', async () => {
    await rules({ copies: '1', offPremises: false });
    await product.press(OWNED, { do: 'write-note', text: 'a note after the copies' });
    const further = await api.startBackup(await api.openTicket(OWNED), { archiveId });
    expect(await api.ended(further.body.id)).toMatchObject({ state: 'done' });
    expect((await care()).owed.total).toBe(1);
    await api.post('/api/care/pay');
    await paid();
    expect((await archive()).copies.map(({ isNewest }) => isNewest)).toEqual([true, true]);
    await rules({ copies: '2' });
  });
});

describe('a check', () => {
  test('reads one copy back without a password, beside a backup that comes into it', async () => {
    const { id, rackId } = await copyOn('Alder');
    await product.press(OWNED, { do: 'write-note', text: 'a note beside the check' });
    const ticket = await api.openTicket(OWNED);
    const [checked, backup] = await Promise.all([
      check(id),
      api.startBackup(ticket, { archiveId }).then(({ body }) => api.ended(body.id)),
    ]);
    expect([checked.state, backup.state]).toEqual(['done', 'done']);
    expect(resultOf(checked, 'check').rackName).toBe('Alder');
    const { body } = await api.get<{ looks: Look[] }>(`/api/racks/${rackId}/looks`);
    expect(body.looks[0]).toMatchObject({ archiveId, level: 'bytes', outcome: 'whole' });
    expect(body.looks[0]?.readBytes).toBeGreaterThan(0);
  });

  test('finds damage, which is known of that copy and of its rack, and of no other', async () => {
    await api.post('/api/care/pay');
    await paid();
    const { id, path, rackId } = await copyOn('Birch');
    const [pack = ''] = readdirSync(join(path, 'data/packs'), { recursive: true })
      .map(String)
      .filter((name) => name.endsWith('.pack'));
    const file = join(path, 'data/packs', pack);
    const bytes = readFileSync(file);
    bytes.writeUInt8(bytes.readUInt8(bytes.length >> 1) ^ 1, bytes.length >> 1);
    writeFileSync(file, bytes);
    expect(await check(id)).toMatchObject({
      state: 'failed',
      problem: { code: 'archive-damaged' },
    });
    expect(await copyOn('Birch')).toMatchObject({ state: 'damaged', checkedLevel: 'bytes' });
    expect(await copyOn('Alder')).not.toMatchObject({ state: 'damaged' });
    expect(await archive()).toMatchObject({ damaged: true });
    const { body } = await api.get<{ health: RackHealth }>(`/api/racks/${rackId}/looks`);
    expect(body.health).toMatchObject({ ailing: true });
    // It counts as no copy any more, and no other rack is there for another.
    expect((await care()).owed.rows[0]).toMatchObject({ rackName: null });
    // A second one that is damaged cannot be repaired from it.
    const noOther = await api.post(`/api/copies/${(await copyOn('Alder')).id}/repairs`, {});
    expect(noOther.body).toMatchObject({ code: 'archive-not-here' });
    // What was proven of the other is proven still.
    const proof = await api.post(`/api/backups/${(await archive()).backups[0]?.id}/proofs`, {
      ...{ level: 'full', password: PASSWORD },
    });
    expect(await api.ended(proof.body.id)).toMatchObject({ state: 'done' });
    expect((await archive()).provenAt).not.toBeNull();
  });

  test('and a copy is repaired from another, read back, and counts again', async () => {
    const { id, path } = await copyOn('Birch');
    const started = await api.post(`/api/copies/${id}/repairs`, {});
    const done = await api.ended(started.body.id);
    expect(resultOf(done, 'repair')).toMatchObject({
      ...{ repaired: 1, rackName: 'Birch', fromName: 'Alder' },
    });
    expect(await copyOn('Birch')).toMatchObject({ state: 'whole', checkedLevel: 'bytes' });
    execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd: path });
    expect((await care()).owed.total).toBe(0);
  });
});
