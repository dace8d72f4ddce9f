import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, Care, Look, Rack } from '@bright-cellar/contract';
import type { RackHealth } from '@bright-cellar/core';
import { beforeAll, describe, expect, test } from 'vitest';
import { resultOf } from '../api.js';
import type { Shop } from '../open-shop.js';
import { eventually, OWNED, PASSWORD } from '../product.js';

/** What is kept: the copies that the house rules ask for, checks of them and what those find; others, and backups that go. */
export const copies = ({ product, api }: Shop) =>
  describe('copies', () => {
    let archiveId = '';
    beforeAll(async () => {
      ({ archiveId } = await api.provenBackup(OWNED));
    });

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

    describe('another copy', () => {
      let made: { archiveId: string; backupId: string };
      beforeAll(async () => {
        made = await api.provenBackup(OWNED);
      });
      const archive = async () => (await api.get<Archive>(`/api/archives/${made.archiveId}`)).body;
      const copy = async (rackId: string | undefined) => {
        const started = await api.post(`/api/archives/${made.archiveId}/copies`, { rackId });
        return started.status === 200 ? api.ended(started.body.id) : started.body;
      };
      const copies = async () =>
        (await archive()).copies.map(({ rackName, isNewest, state, checkedLevel }) => ({
          ...{ rackName, isNewest, state, checkedLevel },
        }));

      test('goes onto another rack, is read back from there, and is brought up to date by what is new', async () => {
        const [alder, birch] = (await api.get<Rack[]>('/api/racks')).body;
        const done = await copy(birch?.id);
        expect(done).toMatchObject({ state: 'done', deviceId: null, backupId: null });
        const first = resultOf(done, 'copy');
        expect(first.sentBytes).toBe(first.storedBytes);
        expect((await copies()).find(({ rackName }) => rackName === birch?.name)).toEqual({
          ...{ rackName: birch?.name, isNewest: true, state: 'whole', checkedLevel: 'bytes' },
        });
        const { copies: places } = await archive();
        const folder = join(
          birch?.mounted ?? '',
          places.find((p) => p.rackId === birch?.id)?.folder ?? '',
        );
        execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd: folder });
        for (const rack of [alder, birch]) {
          expect(await copy(rack?.id)).toMatchObject({ code: 'already-exists' });
        }
        await product.press(OWNED, { do: 'write-note', text: 'a note after the copy' });
        const ticket = await api.openTicket(OWNED);
        const further = await api.startBackup(ticket, { archiveId: made.archiveId });
        expect(await api.ended(further.body.id)).toMatchObject({ state: 'done' });
        expect((await copies()).map(({ isNewest }) => isNewest).sort()).toEqual([false, true]);
        const stale = (await archive()).copies.find(({ isNewest }) => !isNewest);
        const second = resultOf(await copy(stale?.rackId), 'copy');
        expect(second.sentBytes).toBeLessThan(first.sentBytes / 2);
        expect((await copies()).map(({ isNewest }) => isNewest)).toEqual([true, true]);
        execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd: folder });
      });

      test('is what is left when the first drive is away', async () => {
        const [alder] = (await api.get<Rack[]>('/api/racks')).body;
        const path = alder?.mounted ?? '';
        renameSync(path, `${path}.away`);
        try {
          const proof = await api.post(`/api/backups/${made.backupId}/proofs`, {
            ...{ level: 'full', password: PASSWORD },
          });
          expect(await api.ended(proof.body.id)).toMatchObject({ state: 'done' });
          expect((await archive()).copies.map(({ present }) => present).sort()).toEqual([
            false,
            true,
          ]);
        } finally {
          renameSync(`${path}.away`, path);
        }
      });
    });

    describe('backups that are taken out', () => {
      let archiveId = '';
      let first = '';
      beforeAll(async () => {
        const made = await api.provenBackup(OWNED);
        archiveId = made.archiveId;
        first = made.backupId;
        for (const text of ['a second note', 'a third note']) {
          await product.press(OWNED, { do: 'write-note', text });
          const further = await api.startBackup(await api.openTicket(OWNED), { archiveId });
          await api.ended(further.body.id);
        }
      });
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
        const old = await api.post(`/api/backups/${first}/proofs`, {
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
    });
  });
