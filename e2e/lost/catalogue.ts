import { execFileSync } from 'node:child_process';
import {
  cpSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import type { Archive, Operation, Rack, Stranger, Ticket } from '@bright-cellar/contract';
import mysql from 'mysql2/promise';
import { beforeAll, describe, expect, test } from 'vitest';
import { resultOf, type ProvenBackup } from '../api.js';
import { CELLAR } from '../cellar.js';
import type { Shop } from '../open-shop.js';
import { OWNED, PASSWORD } from '../product.js';

/** Archives that the catalogue does not know, in a shop whose racks hold no others: found, brought in, and all that was lost with them. */
export const lostCatalogue = ({ product, api }: Shop) =>
  describe('what lies somewhere', () => {
    const archive = async (id = made.archiveId) =>
      (await api.get<Archive>(`/api/archives/${id}`)).body;
    const racks = async () => (await api.get<Rack[]>('/api/racks')).body;
    let made: ProvenBackup;
    let [here, there, folder] = ['', '', ''];
    let birch: Rack;
    let before: Archive;
    let ticketBefore: Ticket;
    beforeAll(async () => {
      made = await api.provenBackup(OWNED);
      const [alder, other] = await racks();
      if (!alder?.mounted || !other?.mounted) throw new Error('two racks are needed');
      [here, there] = [alder.mounted, other.mounted];
      birch = other;
      before = await archive();
      folder = before.copies[0]?.folder ?? '';
      ticketBefore = (await api.get<Ticket>(`/api/tickets/${before.ticketNumber}`)).body;
    });
    const strangers = async (path = '') =>
      (await api.get<Stranger[]>(`/api/bring-ins?path=${encodeURIComponent(path)}`)).body;
    const ask = (body: object) =>
      api.post('/api/bring-ins', { folder: null, path: null, password: '', ...body });
    const bring = async (body: object): Promise<Operation> => {
      const started = await ask(body);
      expect(started, JSON.stringify(started.body)).toMatchObject({ status: 200 });
      return api.ended(started.body.id);
    };
    const LONG = 'f3a9c1'.repeat(12);

    describe('what lies somewhere and is not in the catalogue', () => {
      test('is found under any name; the very same bytes become another copy without a password', async () => {
        expect(await strangers()).toEqual([]);
        cpSync(join(here, folder), join(there, LONG), { recursive: true });
        expect(await strangers()).toMatchObject([
          {
            rackName: birch.name,
            folder: LONG,
            known: 'same',
            backups: 1,
            missing: 0,
            problem: '',
          },
        ]);
        const done = await bring({ rackId: birch.id, folder: LONG });
        expect(done).toMatchObject({ state: 'done', archiveId: made.archiveId });
        expect(resultOf(done, 'bringIn')).toMatchObject({ isCopy: true, damagedFiles: 0 });
        expect((await archive()).copies).toHaveLength(2);
        expect((await archive()).copies.find(({ folder: f }) => f === LONG)).toMatchObject({
          ...{ rackId: birch.id, state: 'whole', checkedLevel: 'bytes' },
        });
        expect(await strangers()).toEqual([]);
        // Nothing is said to be proven there.
        const proofs = (await archive()).backups.flatMap((backup) => backup.proofs);
        expect(proofs.filter(({ level }) => level === 'full')).toHaveLength(1);
      });

      test('is found again under another name by who renamed it', async () => {
        renameSync(join(there, LONG), join(there, 'renamed'));
        expect(await strangers()).toMatchObject([{ folder: 'renamed', known: 'same' }]);
        await bring({ rackId: birch.id, folder: 'renamed' });
        expect((await archive()).copies.map((copy) => copy.folder).sort()).toEqual(
          [folder, 'renamed'].sort(),
        );
      });

      test('no name leads out of a rack, and a rack has one copy of an archive', async () => {
        cpSync(join(here, folder), join(there, 'twice'), { recursive: true });
        expect((await ask({ rackId: birch.id, folder: 'twice' })).body).toMatchObject({
          code: 'already-exists',
        });
        rmSync(join(there, 'twice'), { recursive: true });
        for (const name of [`../alder/${folder}`, '..', `renamed/../../alder/${folder}`]) {
          expect((await ask({ rackId: birch.id, folder: name })).body).toMatchObject({
            code: 'archive-not-here',
          });
        }
      });
    });

    test('`cellar catalogue` says the same of any folder', () => {
      const passwords = join(product.data, 'passwords.txt');
      writeFileSync(passwords, `not this one\n${PASSWORD}\n`, { mode: 0o600 });
      const said = execFileSync(
        'node',
        [CELLAR, 'catalogue', here, there, '--password-file', passwords, '--json'],
        { encoding: 'utf8' },
      );
      const lines = said.split('\n').filter(Boolean);
      const facts = lines.map((line) => JSON.parse(line) as Record<string, unknown>);
      expect(facts.filter(({ type }) => type === 'archive')).toMatchObject([
        { path: join(here, folder), backups: 1, missing: 0 },
        { path: join(there, 'renamed'), backups: 1, missing: 0 },
      ]);
      const { name, phone } = ticketBefore.customer;
      const [first] = facts.filter(({ type }) => type === 'backup');
      expect(first).toMatchObject({
        ...{ ticket: before.ticketNumber, device: { serial: before.device.serial } },
        sheet: { customer: { name, phone }, reason: ticketBefore.reason },
      });
    });

    test('the catalogue can be lost: racks and passwords bring archive, device, customer and agreement back', async () => {
      const db = await mysql.createConnection(product.databaseSetupUrl);
      await db.query('set foreign_key_checks = 0');
      for (const table of 'proofs looks backups copies archives archive_rows agreements tickets customers devices'.split(
        ' ',
      )) {
        await db.query(`delete from ${table}`);
      }
      await db.end();
      expect((await api.get(`/api/archives/${made.archiveId}`)).status).toBe(404);
      const found = await strangers();
      expect(found.map(({ known }) => known)).toEqual(['unknown', 'unknown']);
      const [first] = found;
      const place = { rackId: first?.rackId, folder: first?.folder };
      expect((await ask(place)).body).toMatchObject({ code: 'wrong-password' });
      expect((await ask({ ...place, password: 'not this one' })).body).toMatchObject({
        code: 'wrong-password',
      });
      const done = await bring({ ...place, password: PASSWORD });
      expect(resultOf(done, 'bringIn')).toMatchObject({
        isCopy: false,
        backups: 1,
        damagedItems: 0,
      });
      const after = await archive();
      expect(after).toMatchObject({
        ticketNumber: before.ticketNumber,
        device: {
          name: before.device.name,
          serial: before.device.serial,
          model: before.device.model,
        },
        passwordHolder: before.passwordHolder,
      });
      const [was] = before.backups;
      const [is] = after.backups;
      for (const what of ['id', 'takenAt', 'items', 'bytes', 'classes', 'coverage'] as const) {
        expect(is?.[what], what).toEqual(was?.[what]);
      }
      expect(is?.proofs).toMatchObject([{ level: 'full', outcome: 'whole', current: true }]);
      const ticket = (await api.get<Ticket>(`/api/tickets/${before.ticketNumber}`)).body;
      const { name, phone, email } = ticketBefore.customer;
      expect(ticket.customer).toMatchObject({ name, phone, email });
      expect(ticket.agreed).toEqual(ticketBefore.agreed);
      expect(ticket.reason).toBe(ticketBefore.reason);
      // The other becomes its copy.
      const [other] = await strangers();
      expect(other?.known).toBe('same');
      await bring({ rackId: other?.rackId, folder: other?.folder });
      expect((await archive()).copies).toHaveLength(2);
      // And the device is known again.
      await product.press(OWNED, { do: 'write-note', text: 'after all was lost' });
      const further = await api.startBackup(await api.openTicket(OWNED), {
        archiveId: made.archiveId,
      });
      expect(further).toMatchObject({ status: 200 });
      expect(await api.ended(further.body.id)).toMatchObject({ state: 'done' });
    });

    test('what is damaged comes in as damaged, says what is missing, and what is whole in it is known', async () => {
      const elsewhere = join(product.data, 'a stick/deep/inside');
      mkdirSync(elsewhere, { recursive: true });
      const two = await api.provenBackup(OWNED);
      const name = (await archive(two.archiveId)).copies[0]?.folder ?? '';
      cpSync(join(here, name), join(elsewhere, 'x y'), { recursive: true });
      expect(await strangers(join(product.data, 'a stick'))).toMatchObject([
        { path: join(elsewhere, 'x y'), rackId: null, known: 'same', missing: 0 },
      ]);
      const whole = await bring({ rackId: birch.id, path: join(elsewhere, 'x y') });
      expect(whole).toMatchObject({ state: 'done' });
      expect((await archive(two.archiveId)).copies).toHaveLength(2);
      const copied = (await archive(two.archiveId)).copies.find((copy) => copy.rackId === birch.id);
      execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], {
        cwd: join(there, copied?.folder ?? ''),
      });

      // A third archive comes on a drive, and a part of it is gone.
      const third = await api.provenBackup(OWNED);
      const own = (await archive(third.archiveId)).copies[0]?.folder ?? '';
      renameSync(join(here, own), join(there, 'half'));
      const packs = join(there, 'half/data/packs');
      const [pack = ''] = readdirSync(packs);
      const bytes = Buffer.from(readFileSync(join(packs, pack)));
      bytes.writeUInt8(bytes.readUInt8(1000) ^ 1, 1000);
      writeFileSync(join(packs, pack), bytes);
      const done = await bring({ rackId: birch.id, folder: 'half', password: PASSWORD });
      const result = resultOf(done, 'bringIn');
      expect(result.damagedFiles).toBe(1);
      expect(result.damagedItems).toBeGreaterThan(0);
      const known = await archive(third.archiveId);
      expect(known.copies.find((copy) => copy.folder === 'half')).toMatchObject({
        state: 'damaged',
      });
      expect(known.backups[0]?.proofs[0]).toMatchObject({ outcome: 'damaged' });
    });
  });
