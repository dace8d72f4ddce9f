import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Archive, Rack, SavesView, Stranger, Ticket } from '@bright-cellar/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { freePort } from '../../scripts/lib/ports.mjs';
import { startProduct } from '../../scripts/lib/product.mjs';
import { Api, type ProvenBackup } from '../api.js';
import type { Shop } from '../open-shop.js';
import { OWNED, PASSWORD, SIGN_IN } from '../product.js';

/** The catalogue as it was saved on the racks, brought back on another computer. Last: this one is halted for it. */
export const lostComputer = ({ product, api }: Shop) =>
  describe('a saved catalogue', () => {
    const racks = async (of = api) => (await of.get<Rack[]>('/api/racks')).body;
    let made: ProvenBackup;
    let here = '';
    beforeAll(async () => {
      made = await api.provenBackup(OWNED);
      here = (await racks())[0]?.mounted ?? '';
    });
    const saves = async () => (await api.get<SavesView>('/api/saves')).body;
    const filesOn = (rack: string) =>
      readdirSync(rack)
        .filter((name) => name.startsWith('.catalogue-') && name.endsWith('.age'))
        .sort();
    let identity = '';

    const empty = mkdtempSync(join(tmpdir(), 'cellar-new-computer-'));
    afterAll(() => rmSync(empty, { recursive: true, force: true }));
    const restore = (from: string, key: string, data: string) =>
      spawnSync(
        process.execPath,
        ['scripts/restore-catalogue.mjs', '--built', '--from', from, '--data', data],
        { cwd: join(import.meta.dirname, '../..'), encoding: 'utf8', input: key },
      );

    test('nothing is saved before somebody has the key; of the key itself nothing is kept', async () => {
      expect((await api.post('/api/saves')).body).toMatchObject({ code: 'recovery-key-missing' });
      const offered = await api.post<{ recipient: string; identity: string }>(
        '/api/saves/key/offer',
      );
      identity = offered.body.identity;
      expect(identity).toMatch(/^AGE-SECRET-KEY-1/);
      expect((await saves()).key).toBeNull();
      await api.send('PUT', '/api/saves/key', { recipient: offered.body.recipient });
      expect((await saves()).key).toMatchObject({ recipient: offered.body.recipient });
    });

    test('it lies on every rack that is here, whole, and only who has the key opens it', async () => {
      const { body } = await api.post<SavesView>('/api/saves');
      expect(body.racks.map(({ savedAt, problem }) => [savedAt !== null, problem])).toEqual(
        body.racks.map(() => [true, null]),
      );
      const [name = ''] = filesOn(here);
      const bytes = readFileSync(join(here, name));
      expect(bytes.toString('latin1')).not.toMatch(/Orchardgate|CREATE TABLE|installationKey/);
      // Judged by the standard tools.
      const key = join(empty, 'key');
      writeFileSync(key, identity, { mode: 0o600 });
      const opened = execFileSync('sh', [
        '-c',
        `age -d -i "$0" "$1" | gunzip`,
        key,
        join(here, name),
      ]);
      const [header = ''] = opened.toString('utf8').split('\n', 1);
      expect(JSON.parse(header)).toMatchObject({ format: 'bright-cellar-catalogue', version: 1 });
      expect(opened.includes('Tamsin Orchardgate')).toBe(true);
      rmSync(key);
      const index = readdirSync(here).find((file) => /^\.catalogue-\w{8}\.json$/.test(file)) ?? '';
      expect(JSON.parse(readFileSync(join(here, index), 'utf8'))).toMatchObject({
        saves: [{ name, sha256: createHash('sha256').update(bytes).digest('hex'), whole: true }],
      });
      expect(statSync(join(here, name)).size).toBe(bytes.length);
    });

    test('one a day is kept, and what was cut off half way is cleared away by the next', async () => {
      const [first = ''] = filesOn(here);
      const index = join(
        here,
        readdirSync(here).find((file) => /^\.catalogue-\w{8}\.json$/.test(file)) ?? '',
      );
      const kept = JSON.parse(readFileSync(index, 'utf8')) as { saves: object[] };
      const half = first.replace(/\d{8}T/, '20200101T');
      writeFileSync(join(here, half), 'half');
      kept.saves.push({
        ...kept.saves[0],
        name: half,
        savedAt: '2020-01-01T00:00:00.000Z',
        whole: false,
      });
      writeFileSync(index, JSON.stringify(kept));
      await api.post('/api/saves');
      expect(filesOn(here)).toHaveLength(1);
      expect(filesOn(here)).not.toContain(first);
    });

    test('it is brought back on another computer, by racks that have moved on since', async () => {
      const ticket = (await api.get<Archive>(`/api/archives/${made.archiveId}`)).body.ticketNumber;
      // After the save: a further backup into the same archive.
      const started = await api.startBackup(ticket, { archiveId: made.archiveId });
      const more = await api.ended(started.body.id);
      expect(more.state).toBe('done');
      await product.halt();

      const data = join(empty, 'data');
      const wrong = restore(here, 'AGE-SECRET-KEY-1QQQQ', data);
      expect(wrong.stderr).toMatch(/^Nothing was brought back/);
      expect(wrong.status).toBe(1);
      const [name = ''] = filesOn(here);
      const damaged = join(empty, 'damaged.age');
      const bytes = readFileSync(join(here, name));
      bytes.writeUInt8(bytes.readUInt8(bytes.length - 40) ^ 1, bytes.length - 40);
      writeFileSync(damaged, bytes);
      const other = join(empty, 'other');
      expect(restore(damaged, identity, other).stderr).toMatch(/^Nothing was brought back/);

      rmSync(data, { recursive: true });
      const back = restore(here, ` ${identity.toLowerCase()}\n`, data);
      expect(back.stderr).toBe('');
      expect(back.stdout).toMatch(/The catalogue of .* is back\./);
      expect(restore(here, identity, data).stderr).toMatch(/There is an installation in/);

      const again = await startProduct({
        ...{ data, port: await freePort(), benchPort: await freePort(), demo: 'none', quiet: true },
        env: { CELLAR_CARE: 'when-asked' },
      });
      try {
        const there = new Api(again);
        expect((await there.signIn(SIGN_IN)).status).toBe(200);
        expect((await there.get<Ticket>(`/api/tickets/${ticket}`)).body.customerName).toBe(
          'Tamsin Orchardgate',
        );
        const archive = (await there.get<Archive>(`/api/archives/${made.archiveId}`)).body;
        expect(archive.backups.map(({ id }) => id)).toEqual([made.backupId]);
        // What was added since the save is found, and comes in with the password: to the copy that is known.
        const strangers = async () => (await there.get<Stranger[]>('/api/bring-ins?path=')).body;
        const [found] = await strangers();
        expect(found).toMatchObject({ known: 'other', backups: 2, missing: 0, problem: '' });
        const wanted = { rackId: found?.rackId, folder: found?.folder, path: null };
        const without = await there.post('/api/bring-ins', { ...wanted, password: '' });
        expect(without.body).toMatchObject({ code: 'wrong-password' });
        const bringing = await there.post('/api/bring-ins', { ...wanted, password: PASSWORD });
        expect((await there.ended(bringing.body.id)).state).toBe('done');
        const now = (await there.get<Archive>(`/api/archives/${made.archiveId}`)).body;
        expect(now.backups.map(({ id }) => id).sort()).toEqual(
          [made.backupId, more.backupId].sort(),
        );
        expect(now.copies).toHaveLength(1);
        expect(now.copies[0]).toMatchObject({ state: 'whole', id: archive.copies[0]?.id });
        expect(await strangers()).toEqual([]);
        // Secrets of racks open with the key that came with the save; the record follows.
        expect((await there.get<{ broken: unknown }>('/api/audit/check')).body.broken).toBeNull();
        expect((await there.get<SavesView>('/api/saves')).body.key).not.toBeNull();
      } finally {
        await again.stop();
      }
    });
  });
