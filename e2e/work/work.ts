import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeEach, describe, expect, test } from 'vitest';
import type {
  Archive,
  ArchiveRow,
  BenchView,
  FailedItem,
  Operation,
  Rack,
  RecoveredFolder,
  Ticket,
} from '@bright-cellar/contract';
import type { Shop } from '../open-shop.js';
import { eventually, openOwned, OWNED, PASSWORD, WIPED } from '../product.js';

/** What goes through everything, what is cut off, and what the server refuses. Last: the customer’s phone is empty after it. */
export const work = ({ product, api }: Shop) =>
  describe('work', () => {
    /** Each test finds the customer's phone on its cable, open and as quick as ever, with something that no backup has yet. */
    beforeEach(async () => {
      await product.press(OWNED, { do: 'plug', berth: 1 }).catch(() => undefined);
      await product.press(OWNED, { do: 'faults', faults: { rate: null, unreadableEntries: 0 } });
      await openOwned(product);
      await product.press(OWNED, { do: 'write-note', text: `written at ${Date.now()}` });
      heldBefore = new Set(allOnRacks());
      archivesBefore = (await api.all<ArchiveRow>('/api/archives')).length;
    });
    let heldBefore = new Set<string>();
    let archivesBefore = 0;

    /** What has a name on the racks; work in progress has none. */
    const allOnRacks = () =>
      ['alder', 'birch']
        .flatMap((rack) => readdirSync(join(product.data, 'racks', rack)))
        .filter((name) => !name.startsWith('.'));
    const newOnRacks = () => allOnRacks().filter((name) => !heldBefore.has(name));
    const newArchives = async () =>
      (await api.all<ArchiveRow>('/api/archives')).length - archivesBefore;

    /** Slows the cable, so that something can happen while a backup runs. */
    const slowly = () => product.press(OWNED, { do: 'faults', faults: { rate: 600_000 } });

    async function runningBackup(): Promise<{ ticket: string; id: string }> {
      await slowly();
      const ticket = await api.openTicket(OWNED);
      const { status, body } = await api.startBackup(ticket);
      expect(status).toBe(200);
      await eventually('bytes that were taken', async () => {
        const { body: now } = await api.get<Operation>(`/api/operations/${body.id}`);
        return now.doneBytes > 200_000;
      });
      return { ticket, id: body.id };
    }

    describe('a folder that goes through everything', () => {
      test('comes out bit for bit', async () => {
        const source = mkdtempSync(join(tmpdir(), 'cellar-source-'));
        const target = mkdtempSync(join(tmpdir(), 'cellar-target-'));
        const plugged: string[] = [];
        try {
          mkdirSync(join(source, 'photographs/2026'), { recursive: true });
          mkdirSync(join(source, 'documents/empty folder'), { recursive: true });
          writeFileSync(join(source, 'photographs/2026/large.jpg'), randomBytes(5_000_001));
          writeFileSync(join(source, 'photographs/2026/empty.jpg'), '');
          writeFileSync(join(source, 'documents/Grüße an 山本 — ½.txt'), 'any script');
          writeFileSync(join(source, `documents/${'long'.repeat(60)}.txt`), 'a long name');
          writeFileSync(join(source, 'at the top.bin'), randomBytes(70_000));
          for (let n = 0; n < 400; n++)
            writeFileSync(join(source, `documents/${n}.txt`), `file ${n}`);
          writeFileSync(join(source, 'documents/long.bin'), Buffer.alloc(70 * 2 ** 20, 'pattern'));
          symlinkSync('../photographs/2026/large.jpg', join(source, 'documents/link.jpg'));
          utimesSync(join(source, 'at the top.bin'), 1_700_000_000, 1_700_000_000);

          const from = await product.plugFolder(source, 3);
          plugged.push(from.facts.id);
          const { backupId } = await api.provenBackup(from.facts.id);
          const onto = await product.plugFolder(target, 4);
          plugged.push(onto.facts.id);
          const started = await api.post(`/api/backups/${backupId}/restores`, {
            deviceId: onto.facts.id,
            serialTail: onto.facts.serial.slice(-4),
            password: PASSWORD,
          });
          expect(started.status).toBe(200);
          const restored = await api.ended(started.body.id, 80_000);
          expect(restored).toMatchObject({
            state: 'done',
            result: { compared: { same: 408, different: 0, missing: 0, extra: 0 } },
          });
          expect(execFileSync('diff', ['-r', '--no-dereference', source, target]).toString()).toBe(
            '',
          );
          const times = (folder: string) =>
            execFileSync('find', ['.', '-type', 'f', '-printf', '%P %Ts %m\n'], { cwd: folder })
              .toString()
              .split('\n')
              .sort();
          expect(times(target)).toEqual(times(source));
        } finally {
          for (const id of plugged) await product.press(id, { do: 'pull-cable' });
          for (const folder of [source, target]) rmSync(folder, { recursive: true, force: true });
        }
      });
    });

    test('a device that keeps something else than it was sent is found out, and nothing is called done', async () => {
      const [source, target] = ['source', 'target'].map((name) =>
        mkdtempSync(join(tmpdir(), `cellar-${name}-`)),
      ) as [string, string];
      const plugged: string[] = [];
      try {
        writeFileSync(join(source, 'first.bin'), randomBytes(50_000));
        writeFileSync(join(source, 'second.bin'), randomBytes(3_000_000));
        const from = await product.plugFolder(source, 3);
        const onto = await product.plugFolder(target, 4);
        plugged.push(from.facts.id, onto.facts.id);
        const { backupId } = await api.provenBackup(from.facts.id);
        await product.press(onto.facts.id, { do: 'faults', faults: { rate: 1_000_000 } });
        const { body } = await api.post(`/api/backups/${backupId}/restores`, {
          deviceId: onto.facts.id,
          serialTail: onto.facts.serial.slice(-4),
          password: PASSWORD,
        });
        // What it received lies there until all of it has come.
        const received = join(`${target}.incoming`, 'first.bin');
        await eventually('the first file', async () => {
          return existsSync(received) && statSync(received).size === 50_000;
        });
        const bytes = readFileSync(received);
        bytes.writeUInt8(bytes.readUInt8(777) ^ 1, 777);
        writeFileSync(received, bytes);
        const ended = await api.ended(body.id);
        expect(ended).toMatchObject({ state: 'failed', problem: { code: 'restore-differs' } });
        expect(ended.problem?.what).toMatch(/1 items are right .*, 1 differ and 0 are missing/);
      } finally {
        for (const id of plugged) await product.press(id, { do: 'pull-cable' });
        for (const folder of [source, target]) rmSync(folder, { recursive: true, force: true });
      }
    });

    describe('what somebody recovered', () => {
      const typed = { familyName: 'Marl', model: 'Fell 2', kind: 'phone', serial: '', imei: '' };
      const incoming = () => join(product.data, 'racks', 'birch', 'incoming');
      /** The folder as it arrives: its name says nothing. */
      const NAME = 'b2f1-00003-9d77e0c4';

      async function takeOver(ticket: string, more: object = {}) {
        const racks = (await api.get<Rack[]>('/api/racks')).body;
        const rackOf = (name: string) => racks.find((rack) => rack.name === name)?.id ?? '';
        return api.post(`/api/tickets/${ticket}/recovered`, {
          from: { rackId: rackOf('Birch'), name: NAME },
          rackId: rackOf('Alder'),
          fromDesk: false,
          password: PASSWORD,
          passwordHolder: 'customer',
          reminder: '',
          ...more,
        });
      }

      test('is taken over from its folder, proven, and permits no erase', async () => {
        const ticket = await api.openTicket('', { device: typed, reason: 'recovered' });
        expect((await api.get('/api/recovered')).body).toEqual([]);
        expect((await takeOver(ticket)).body).toMatchObject({ code: 'not-found' });
        mkdirSync(join(incoming(), NAME, 'photographs'), { recursive: true });
        // More than one reading of a folder brings at once.
        for (let n = 0; n < 100; n++)
          writeFileSync(join(incoming(), NAME, `photographs/${n}.jpg`), randomBytes(3000));
        writeFileSync(join(incoming(), NAME, 'readme.txt'), 'from the laboratory');
        const [found] = (await api.get<RecoveredFolder[]>('/api/recovered')).body;
        expect(found).toMatchObject({ name: NAME, rackName: 'Birch' });
        const measured = await api.post('/api/recovered/measure', {
          rackId: found?.rackId,
          name: NAME,
        });
        expect(measured.body).toEqual({ items: 102, bytes: 300_019 });
        expect((await takeOver(ticket, { password: '1234' })).body.code).toBe('weak-password');
        const away = { from: { rackId: found?.rackId, name: '../alder' } };
        expect((await takeOver(ticket, away)).body.code).toBe('not-found');
        const ended = await api.ended((await takeOver(ticket)).body.id);
        expect(ended).toMatchObject({
          state: 'done',
          result: { items: 102, bytes: 300_019, failed: [] },
        });
        const proof = await api.post(`/api/backups/${ended.backupId}/proofs`, {
          level: 'full',
          password: PASSWORD,
        });
        expect((await api.ended(proof.body.id)).state).toBe('done');
        const { body } = await api.get<Ticket>(`/api/tickets/${ticket}`);
        const stateOf = (id: string) => body.runSheet.find((step) => step.id === id)?.state;
        expect(['connect', 'backup', 'prove', 'restore'].map(stateOf)).toEqual([
          'done',
          'done',
          'done',
          'ready',
        ]);
        const { body: archive } = await api.get<Archive>(`/api/archives/${ended.archiveId}`);
        expect(archive.backups[0]).toMatchObject({ scope: { everything: false } });
        expect(archive.backups[0]?.coverage[0]?.what).toBe('What could not be recovered');
        rmSync(join(incoming(), NAME), { recursive: true });
      });

      test('does not pass for whole when its drive is pulled in the middle, and goes on when it is back', async () => {
        mkdirSync(join(incoming(), NAME), { recursive: true });
        for (let n = 0; n < 4000; n++)
          writeFileSync(join(incoming(), NAME, `${n}.txt`), `file ${n}`);
        const ticket = await api.openTicket('', { device: typed, reason: 'recovered' });
        const { id } = (await takeOver(ticket)).body;
        await api.post(`/api/operations/${id}/pause`, { paused: true });
        renameSync(join(incoming(), NAME), join(incoming(), '.away'));
        await api.post(`/api/operations/${id}/pause`, { paused: false });
        expect(await api.ended(id)).toMatchObject({
          state: 'failed',
          problem: { code: 'rack-not-here' },
        });
        renameSync(join(incoming(), '.away'), join(incoming(), NAME));
        const again = await api.post(`/api/operations/${id}/continue`, { password: PASSWORD });
        expect(again.status).toBe(200);
        expect(await api.ended(id)).toMatchObject({
          state: 'done',
          result: { items: 4000, failed: [] },
        });
        rmSync(join(incoming(), NAME), { recursive: true });
      });
    });

    describe('when something is cut off', () => {
      test('a pulled cable ends the backup with a clear problem, and it can go on', async () => {
        const { id } = await runningBackup();
        await product.press(OWNED, { do: 'pull-cable' });
        const ended = await api.ended(id);
        expect(ended).toMatchObject({ state: 'failed', problem: { code: 'device-left' } });
        expect(ended.problem?.safe).toMatch(/What was taken is kept/);
        expect(ended.keptBytes).toBeGreaterThan(0);
        expect(await newArchives()).toBe(0);
        expect(newOnRacks()).toEqual([]);
        // The device comes back, and it goes on.
        await product.press(OWNED, { do: 'plug', berth: 1 });
        await openOwned(product);
        await product.press(OWNED, { do: 'faults', faults: { rate: null } });
        const again = await api.post(`/api/operations/${id}/continue`, { password: PASSWORD });
        expect(again.status).toBe(200);
        expect(await api.ended(id)).toMatchObject({ state: 'done' });
        expect(newOnRacks()).toHaveLength(1);
      });

      test('the server killed in the middle: the work goes on, and the new server finds it', async () => {
        const { id } = await runningBackup();
        // Still running when the next server is there, however long that takes to start.
        await product.press(OWNED, { do: 'faults', faults: { rate: 10_000 } });
        const before = product.serverPid();
        process.kill(before ?? 0, 'SIGKILL');
        await eventually('a new server', async () => {
          const status = await api.get('/healthz').then(
            (answer) => answer.status,
            () => 0,
          );
          return status === 200 && product.serverPid() !== before;
        });
        expect((await api.get<Operation>(`/api/operations/${id}`)).body.state).toBe('running');
        await product.press(OWNED, { do: 'faults', faults: { rate: null } });
        expect(await api.ended(id)).toMatchObject({ state: 'done' });
        expect(await newArchives()).toBe(1);
        expect(newOnRacks()).toHaveLength(1);
      });

      test('the work process killed in the middle: the catalogue says so, and nothing half-made stays', async () => {
        const { ticket, id } = await runningBackup();
        expect(newOnRacks()).toEqual([]);
        process.kill(product.workPid() ?? 0, 'SIGKILL');
        expect(await api.ended(id)).toMatchObject({
          state: 'interrupted',
          problem: { code: 'work-interrupted' },
        });
        expect(await newArchives()).toBe(0);
        expect(newOnRacks()).toEqual([]);
        await product.press(OWNED, { do: 'faults', faults: { rate: null } });
        await eventually('the device to be free again', async () => {
          const again = await api.startBackup(ticket);
          return again.status === 200 && (await api.ended(again.body.id)).state === 'done';
        });
      });

      test('a stop ends the backup, and nothing half-made has a name', async () => {
        const { id } = await runningBackup();
        expect((await api.post(`/api/operations/${id}/stop`)).status).toBe(200);
        expect(await api.ended(id)).toMatchObject({
          state: 'stopped',
          problem: { code: 'work-stopped' },
        });
        expect(newOnRacks()).toEqual([]);
      });

      test('items that cannot be read are counted with their reason, and the rest is taken', async () => {
        await product.press(OWNED, { do: 'faults', faults: { unreadableEntries: 2 } });
        const ticket = await api.openTicket(OWNED);
        const started = await api.startBackup(ticket);
        const { state, result } = await api.ended(started.body.id);
        expect(state).toBe('done');
        for (const f of result?.failed ?? []) expect(f.reason).toBe('the device could not read it');
        expect(result?.failed.reduce((sum, f) => sum + f.count, 0)).toBe(2);
        // Which they are: without names until the customer agreed that the shop looks inside, and never kept.
        const each = async () =>
          (await api.get<FailedItem[]>(`/api/operations/${started.body.id}/failed`)).body;
        expect((await each()).map(({ name }) => name)).toEqual([null, null]);
        for (const item of await each()) expect(item.bytes).toBeGreaterThan(0);
        await api.agree(ticket, 'look-in');
        const named = (await each()).map(({ name }) => name ?? '');
        for (const name of named) expect(name).toMatch(/\.\w+$/);
        const { body: kept } = await api.get<Operation>(`/api/operations/${started.body.id}`);
        for (const name of named) expect(JSON.stringify(kept)).not.toContain(name);
        // However well it is proven, what is not in it would be lost.
        const { body: proof } = await api.post(`/api/backups/${kept.backupId}/proofs`, {
          ...{ level: 'full', password: PASSWORD },
        });
        expect((await api.ended(proof.id)).state).toBe('done');
        const { body: may } = await api.get<{ allowed: boolean; because: string }>(
          `/api/devices/${OWNED}/erase`,
        );
        expect(may).toMatchObject({
          allowed: false,
          because: 'The backup of this device misses items that could not be read.',
        });
      });
    });

    describe('what the server refuses, whatever a screen would send', () => {
      test('a backup of a locked device, without agreement, or under a PIN', async () => {
        const ticket = await api.openTicket(OWNED, {
          agreed: { backup: false, lookIn: false, escrow: false, keepDays: 30 },
        });
        expect((await api.startBackup(ticket)).body.what).toMatch(/not agreed/);
        await api.agree(ticket);
        expect(await api.startBackup(ticket, { password: '402917' })).toMatchObject({
          status: 422,
          body: { code: 'weak-password' },
        });
        await product.press(OWNED, { do: 'lock' });
        expect((await api.startBackup(ticket)).body).toMatchObject({
          code: 'device-not-ready',
          next: 'Unlock the phone on berth 1 with its passcode.',
        });
        expect(newOnRacks()).toEqual([]);
      });

      test('a second piece of work on a device that is busy', async () => {
        const { ticket, id } = await runningBackup();
        expect((await api.startBackup(ticket)).body.code).toBe('device-busy');
        const erase = await api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' });
        expect(erase.body.code).toBe('device-busy');
        await api.post(`/api/operations/${id}/stop`);
        await api.ended(id);
      });

      test('a restore onto a device in use, onto one that is not ready, or with another serial', async () => {
        const { backupId } = await api.provenBackup(OWNED);
        const restore = (deviceId: string, serialTail: string, password = PASSWORD) =>
          api.post(`/api/backups/${backupId}/restores`, { deviceId, serialTail, password });
        expect((await restore(OWNED, '4Q81')).body.code).toBe('device-in-use');
        expect((await restore(WIPED, '0T57')).body.code).toBe('device-not-here');
        await product.press(WIPED, { do: 'plug', berth: 2 });
        await product.press(WIPED, { do: 'approve', passcode: '' });
        expect((await restore(WIPED, '0T57')).body).toMatchObject({ code: 'device-not-ready' });
        await product.press(WIPED, { do: 'owner-lock-off' });
        expect((await restore(WIPED, '0T57')).body.next).toMatch(/^Charge the phone/);
        await product.press(WIPED, { do: 'charge', percent: 90 });
        expect((await restore(WIPED, '4Q81')).body.code).toBe('wrong-serial');
        expect((await restore(WIPED, '0T57', 'not the password')).body.code).toBe('wrong-password');
        const started = await restore(WIPED, '0T57');
        expect((await api.ended(started.body.id)).state).toBe('done');
      });

      test('proofs and a package of one archive run beside each other', async () => {
        const { backupId } = await api.provenBackup(OWNED);
        const { body: racks } = await api.get<Rack[]>('/api/racks');
        const prove = () =>
          api.post(`/api/backups/${backupId}/proofs`, { level: 'full', password: PASSWORD });
        const wanted = { rackId: racks[0]?.id, password: PASSWORD };
        const readers = await Promise.all([
          prove(),
          prove(),
          api.post(`/api/backups/${backupId}/exports`, wanted),
        ]);
        for (const { status, body } of readers) {
          expect(status).toBe(200);
          expect((await api.ended(body.id)).problem).toBeNull();
        }
      });

      test('a proof that finds a flipped bit fails, is kept, and takes the permission to erase away', async () => {
        const { backupId, archiveId, ticket } = await api.provenBackup(OWNED);
        const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
        const rack = archive.rackName.toLowerCase();
        const folder = join(
          product.data,
          'racks',
          rack,
          archive.copies[0]?.folder ?? '',
          'data/packs',
        );
        const pack = join(folder, readdirSync(folder)[0] ?? '');
        execFileSync('bash', [
          '-c',
          `printf '\\x5a' | dd of='${pack}' bs=1 seek=77777 conv=notrunc status=none`,
        ]);
        const proof = await api.post(`/api/backups/${backupId}/proofs`, {
          level: 'full',
          password: PASSWORD,
        });
        expect(await api.ended(proof.body.id)).toMatchObject({
          state: 'failed',
          problem: { code: 'archive-damaged' },
        });
        const rows = await api.all<ArchiveRow>('/api/archives');
        expect(rows.find((row) => row.id === archiveId)).toMatchObject({
          damaged: true,
          provenAt: null,
        });
        const erase = await api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' });
        expect(erase.body.code).toBe('not-proven');
        const { body } = await api.get<Ticket>(`/api/tickets/${ticket}`);
        expect(body.step).toMatchObject({ id: 'prove', state: 'blocked' });
      });

      // The last one: afterwards the phone is empty.
      test('an erase without a proven backup of what is on the device now', async () => {
        const erase = (serialTail: string) =>
          api.post(`/api/devices/${OWNED}/erase`, { serialTail });
        expect((await erase('4Q81')).body.code).toBe('not-proven');
        const started = await api.startBackup(await api.openTicket(OWNED));
        const { backupId } = await api.ended(started.body.id);
        expect((await erase('4Q81')).body.code).toBe('not-proven');
        const proof = await api.post(`/api/backups/${backupId}/proofs`, {
          level: 'full',
          password: PASSWORD,
        });
        await api.ended(proof.body.id);
        await product.press(OWNED, { do: 'write-note', text: 'written after the backup' });
        expect((await erase('4Q81')).body.what).toMatch(/changed after/);
        await api.provenBackup(OWNED);
        expect((await erase('0000')).body.code).toBe('wrong-serial');
        const erased = await erase('4Q81');
        expect(erased.status).toBe(200);
        expect((await api.ended(erased.body.id)).state).toBe('done');
        const { body: bench } = await api.get<BenchView>('/api/bench');
        expect(bench.berths[0]?.device?.empty).toBe(true);
      });
    });
  });
