import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type {
  Archive,
  FurtherCost,
  Operation,
  Package,
  Rack,
  Ticket,
} from '@bright-cellar/contract';
import { beforeAll, describe, expect, test } from 'vitest';
import { resultOf, type ProvenBackup } from '../api.js';
import type { Shop } from '../open-shop.js';
import { OWNED, PASSWORD } from '../product.js';

/** What is done with an archive: the next backup, looks at it, packages, another password. */
export const archives = ({ product, api }: Shop) =>
  describe('its archive', () => {
    let made: ProvenBackup;
    beforeAll(async () => {
      made = await api.provenBackup(OWNED);
    });

    const archive = async () => (await api.get<Archive>(`/api/archives/${made.archiveId}`)).body;

    async function folderOf(): Promise<string> {
      const { body: racks } = await api.get<Rack[]>('/api/racks');
      const { rackName, copies } = await archive();
      return join(racks.find((r) => r.name === rackName)?.mounted ?? '', copies[0]?.folder ?? '');
    }

    async function look(level: string, password: string): Promise<Operation> {
      const started = await api.post(`/api/backups/${made.backupId}/proofs`, { level, password });
      expect(started.status).toBe(200);
      return api.ended(started.body.id);
    }

    describe('the next backup of a known device', () => {
      test('says before what would be sent, sends only that, and says after what was new', async () => {
        await product.press(OWNED, { do: 'write-note', text: 'a note that was not there before' });
        const ticket = await api.openTicket(OWNED);
        const { body: sheet } = await api.get<Ticket>(`/api/tickets/${ticket}`);
        expect(sheet.knownArchive?.id).toBe(made.archiveId);
        const costs = (password: string) =>
          api.post<FurtherCost>(`/api/tickets/${ticket}/further-costs`, {
            ...{ mode: 'everything', choice: {}, encrypted: true },
            archiveId: made.archiveId,
            password,
          });
        expect((await costs('not this one')).body).toMatchObject({ code: 'wrong-password' });
        const { body: compared } = await costs(PASSWORD);
        expect(compared.toSend.items).toBe(1);
        expect(compared.same.items).toBeGreaterThan(20);
        expect(compared).toMatchObject({ fits: true, estimate: { items: 1 } });

        const wrong = await api.startBackup(ticket, {
          archiveId: made.archiveId,
          password: 'another',
        });
        expect(wrong.body.code).toBe('wrong-password');
        const started = await api.startBackup(ticket, { archiveId: made.archiveId });
        const done = await api.ended(started.body.id);
        expect(done).toMatchObject({ state: 'done', archiveId: made.archiveId });
        // What was foretold of it is kept beside what came.
        expect(done.estimate).toEqual(compared.estimate);
        expect(resultOf(done, 'backup').storedBytes).toBeGreaterThan(
          compared.estimate.stored.low / 3,
        );
        expect(resultOf(done, 'backup').storedBytes).toBeLessThan(
          compared.estimate.stored.high * 3,
        );
        expect(done.result).toMatchObject({
          newItems: 1,
          newBytes: compared.toSend.bytes,
          items: compared.same.items + 1,
        });
        const { backups, provenAt } = await archive();
        expect(backups.map(({ newItems }) => newItems)).toEqual([1, compared.same.items]);
        // The newest backup counts, and nobody has read it back yet.
        expect(provenAt).toBeNull();
        const { body: after } = await api.get<Ticket>(`/api/tickets/${ticket}`);
        expect(after.archiveIds).toEqual([made.archiveId]);
      });

      test('is not taken into another device’s archive', async () => {
        const folder = join(product.data, 'other-device');
        execFileSync('mkdir', ['-p', folder]);
        writeFileSync(join(folder, 'a.txt'), 'x');
        const other = await product.plugFolder(folder, 3);
        const ticket = await api.openTicket(other.facts.id);
        const refused = await api.startBackup(ticket, { archiveId: made.archiveId });
        expect(refused.body.code).toBe('archive-of-another');
      });
    });

    describe('looking at an archive', () => {
      test('at every level is recorded with its level; only a full reading makes it proven', async () => {
        for (const [level, password] of [
          ['structure', PASSWORD],
          ['sample', PASSWORD],
          ['bytes', ''],
        ] as const) {
          expect(await look(level, password)).toMatchObject({ state: 'done' });
          const [newest] = (await archive()).backups[0]?.proofs ?? [];
          expect(newest).toMatchObject({ level, outcome: 'whole', by: 'Joss Kelholt' });
          expect((await archive()).provenAt).toBeNull();
        }
        expect(await look('full', PASSWORD)).toMatchObject({ state: 'done' });
        expect((await archive()).provenAt).not.toBeNull();
        const proofs = readdirSync(join(await folderOf(), 'proofs'));
        expect(proofs.filter((name) => name.endsWith('-full.json')).length).toBeGreaterThan(0);
        const refused = await api.post(`/api/backups/${made.backupId}/proofs`, {
          level: 'full',
          password: '',
        });
        expect(refused.body.code).toBe('wrong-password');
      });
    });

    describe('packages', () => {
      test('one is written, opens with ordinary tools, comes back in; a cut one is refused whole', async () => {
        const [rack] = (await api.get<Rack[]>('/api/racks')).body;
        const exporting = await api.post(`/api/backups/${made.backupId}/exports`, {
          rackId: rack?.id,
          password: PASSWORD,
        });
        const written = await api.ended(exporting.body.id);
        expect(written).toMatchObject({ state: 'done' });
        const [found] = (await api.get<Package[]>('/api/packages')).body;
        expect(found?.name).toBe(resultOf(written, 'export').wrote);
        const file = join(rack?.mounted ?? '', 'packages', found?.name ?? '');
        expect(readFileSync(file).subarray(0, 21).toString()).toBe('age-encryption.org/v1');

        const importing = (name: string) =>
          api.post(`/api/archives/${made.archiveId}/imports`, {
            rackId: rack?.id,
            name,
            password: PASSWORD,
            packagePassword: '',
          });
        const before = (await archive()).backups.length;
        const taken = await api.ended((await importing(found?.name ?? '')).body.id);
        // Everything in it was in the archive already.
        expect(taken).toMatchObject({ state: 'done', result: { newBytes: 0 } });
        expect((await archive()).backups).toHaveLength(before + 1);

        const cut = join(rack?.mounted ?? '', 'packages/cut.tar.age');
        writeFileSync(cut, readFileSync(file).subarray(0, -1000));
        const refused = await api.ended((await importing('cut.tar.age')).body.id);
        expect(refused).toMatchObject({ state: 'failed', problem: { code: 'package-damaged' } });
        expect((await archive()).backups).toHaveLength(before + 1);
        expect((await importing('../../elsewhere.tar.age')).body.code).toBe('not-found');
        expect(await look('full', PASSWORD)).toMatchObject({ state: 'done' });
      });
    });

    describe('while a further backup is taken', () => {
      test('the archive is looked at, and no other backup goes into it', async () => {
        const text = 'a long note. '.repeat(150);
        await product.press(OWNED, { do: 'write-note', text });
        await product.press(OWNED, { do: 'faults', faults: { rate: 400 } });
        const ticket = await api.openTicket(OWNED);
        const adding = await api.startBackup(ticket, { archiveId: made.archiveId });
        const { id } = adding.body;
        const state = async () => (await api.get<Operation>(`/api/operations/${id}`)).body.state;
        try {
          expect(await look('full', PASSWORD)).toMatchObject({ state: 'done' });
          const [rack] = (await api.get<Rack[]>('/api/racks')).body;
          const [found] = (await api.get<Package[]>('/api/packages')).body;
          const second = await api.post(`/api/archives/${made.archiveId}/imports`, {
            ...{ rackId: rack?.id, name: found?.name, password: PASSWORD, packagePassword: '' },
          });
          expect(second.body.code).toBe('archive-in-use');
          expect(await state()).toBe('running');
        } finally {
          await product.press(OWNED, { do: 'faults', faults: { rate: null } });
        }
        expect(await api.ended(id)).toMatchObject({ state: 'done', archiveId: made.archiveId });
        expect(await look('full', PASSWORD)).toMatchObject({ state: 'done' });
        expect((await archive()).provenAt).not.toBeNull();
      });
    });

    test('the password is changed in a moment: the new one opens, the old one does not, nothing else is written', async () => {
      const folder = await folderOf();
      const packs = () => execFileSync('stat', ['-c', '%n %Y', ...packNames(folder)]).toString();
      const before = packs();
      const change = (password: string, newPassword: string) =>
        api.post<Archive>(`/api/archives/${made.archiveId}/holder`, {
          password,
          newPassword,
          passwordHolder: 'both',
          reminder: 'the other kettle',
        });
      expect((await change(PASSWORD, '1234')).body).toMatchObject({ code: 'weak-password' });
      expect((await change('not this one', 'copper lantern nine wrens')).body).toMatchObject({
        code: 'wrong-password',
      });
      const { body } = await change(PASSWORD, 'copper lantern nine wrens');
      expect(body).toMatchObject({ passwordHolder: 'both', reminder: 'the other kettle' });
      expect(packs()).toBe(before);
      const old = await api.post(`/api/backups/${made.backupId}/proofs`, {
        level: 'full',
        password: PASSWORD,
      });
      expect(old.body.code).toBe('wrong-password');
      expect(await look('full', 'copper lantern nine wrens')).toMatchObject({ state: 'done' });
      await change('copper lantern nine wrens', PASSWORD);
    });

    const packNames = (folder: string) =>
      readdirSync(join(folder, 'data/packs')).map((name) => join(folder, 'data/packs', name));

    test('an archive that is away is said to be away to whoever wants to work on it', async () => {
      const folder = await folderOf();
      renameSync(folder, `${folder}.away`);
      try {
        const ticket = await api.openTicket(OWNED);
        const answer = await api.startBackup(ticket, { archiveId: made.archiveId });
        expect(answer.body.code).toBe('archive-not-here');
      } finally {
        renameSync(`${folder}.away`, folder);
      }
    });
  });
