import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import {
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
  cpSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { dirname, join } from 'node:path';
import mysql from 'mysql2/promise';
import type { Archive, Operation, Rack } from '@bright-cellar/contract';
import { afterAll, beforeEach, describe, expect, test } from 'vitest';
import { resultOf } from './api.js';
import { openShop } from './open-shop.js';
import { eventually, openOwned, OWNED, PASSWORD } from './product.js';

/** Whatever somebody does to what lies on a rack: nothing is called proven that is not, and nothing is erased on it. */
const clockFile = join(mkdtempSync(join(tmpdir(), 'cellar-clock-')), 'off-by');
const { product, api, db } = await openShop({ clockFile });
afterAll(() => rmSync(dirname(clockFile), { recursive: true }));
beforeEach(async () => {
  await openOwned(product);
  await product.press(OWNED, { do: 'write-note', text: `written at ${Date.now()}` });
});

/** Where the one copy of an archive lies. */
async function folderOf(archiveId: string): Promise<string> {
  const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
  const { body: racks } = await api.get<Rack[]>('/api/racks');
  const rack = racks.find((r) => r.name === archive.rackName)?.mounted ?? '';
  return join(rack, archive.copies[0]?.folder ?? '');
}

const erase = () => api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' });
const mayErase = async () =>
  (await api.get<{ allowed: boolean; because: string }>(`/api/devices/${OWNED}/erase`)).body;
/** What became of an erase that was asked for, whether it was refused at once or in its last look. */
async function erased(): Promise<string> {
  const asked = await erase();
  if (asked.status !== 200) return asked.body.code ?? '';
  const ended = await api.ended(asked.body.id);
  return ended.state === 'done' ? 'erased' : (ended.problem?.code ?? '');
}
const isEmpty = async () => {
  const { body } = await api.get<{ berths: { device: { id: string; empty: boolean } | null }[] }>(
    '/api/bench',
  );
  return body.berths.some(({ device }) => device?.id === OWNED && device.empty);
};

async function prove(backupId: string): Promise<Operation> {
  const { body } = await api.post(`/api/backups/${backupId}/proofs`, {
    level: 'full',
    password: PASSWORD,
  });
  return api.ended(body.id);
}

const sha512 = (path: string) => createHash('sha512').update(readFileSync(path)).digest('hex');

/** Computes the manifests anew over what is there: anybody can, it takes no password. */
function coverUp(folder: string): void {
  const names = readdirSync(join(folder, 'data'), { recursive: true })
    .map((name) => `data/${String(name)}`)
    .filter((name) => statSync(join(folder, name)).isFile())
    .sort();
  const bytes = names.reduce((sum, name) => sum + statSync(join(folder, name)).size, 0);
  const lines = (files: string[]) =>
    files.map((name) => `${sha512(join(folder, name))}  ${name}\n`).join('');
  writeFileSync(join(folder, 'manifest-sha512.txt'), lines(names));
  const info = readFileSync(join(folder, 'bag-info.txt'), 'utf8');
  writeFileSync(
    join(folder, 'bag-info.txt'),
    info.replace(/Payload-Oxum: .*/, `Payload-Oxum: ${bytes}.${names.length}`),
  );
  writeFileSync(
    join(folder, 'tagmanifest-sha512.txt'),
    lines(['bag-info.txt', 'bagit.txt', 'manifest-sha512.txt']),
  );
}

describe('an archive that somebody meddled with', () => {
  test('without its lists, packs and indexes, and the manifests computed anew, is not proven, and nothing is erased', async () => {
    const { archiveId, backupId } = await api.provenBackup(OWNED);
    expect(await mayErase()).toMatchObject({ allowed: true });
    const folder = await folderOf(archiveId);
    for (const inside of ['packs', 'indexes', 'backups']) {
      for (const name of readdirSync(join(folder, 'data', inside)))
        rmSync(join(folder, 'data', inside, name));
    }
    coverUp(folder);
    expect(await erased()).toBe('not-proven');
    const proof = await prove(backupId);
    expect(proof).toMatchObject({ state: 'failed', problem: { code: 'archive-damaged' } });
    expect(await mayErase()).toMatchObject({ allowed: false });
    expect(await isEmpty()).toBe(false);
  });

  test('another archive under the same password, in its place, is not it', async () => {
    const first = await api.provenBackup(OWNED);
    await product.press(OWNED, { do: 'write-note', text: 'for another archive' });
    const second = await api.provenBackup(OWNED);
    const [there, other] = [await folderOf(second.archiveId), await folderOf(first.archiveId)];
    renameSync(there, `${there}.aside`);
    cpSync(other, there, { recursive: true });
    expect(await erased()).toBe('not-proven');
    const proof = await prove(second.backupId);
    expect(proof.state).toBe('failed');
    expect(proof.problem?.what).toMatch(/Another archive lies in the place/);
    expect(await mayErase()).toMatchObject({ allowed: false });
    rmSync(there, { recursive: true });
    renameSync(`${there}.aside`, there);
    expect((await prove(second.backupId)).state).toBe('done');
  });

  test('an older state of it is not it either', async () => {
    const { archiveId, ticket } = await api.provenBackup(OWNED);
    const folder = await folderOf(archiveId);
    cpSync(folder, `${folder}.older`, { recursive: true });
    await product.press(OWNED, { do: 'write-note', text: 'for a second backup' });
    const further = await api.startBackup(ticket, { archiveId, rackId: null });
    const done = await api.ended(further.body.id);
    expect((await prove(done.backupId ?? '')).state).toBe('done');
    renameSync(folder, `${folder}.newer`);
    renameSync(`${folder}.older`, folder);
    expect(await erased()).toBe('not-proven');
    const proof = await prove(done.backupId ?? '');
    expect(proof.problem?.what).toMatch(/older state of the archive/);
    rmSync(folder, { recursive: true });
    renameSync(`${folder}.newer`, folder);
  });

  test('emptied, or with one pack gone, allows no erase, however fresh its proof is', async () => {
    const { archiveId } = await api.provenBackup(OWNED);
    const folder = await folderOf(archiveId);
    renameSync(folder, `${folder}.full`);
    mkdirSync(folder);
    expect(await erased()).toBe('not-proven');
    rmSync(folder, { recursive: true });
    renameSync(`${folder}.full`, folder);
    const [pack = ''] = readdirSync(join(folder, 'data/packs'));
    renameSync(join(folder, 'data/packs', pack), join(folder, pack));
    expect(await erased()).toBe('not-proven');
    renameSync(join(folder, pack), join(folder, 'data/packs', pack));
    expect(await isEmpty()).toBe(false);
  });

  test('a proof speaks of the state that it saw: after a further backup it is owed again', async () => {
    const { archiveId, backupId, ticket } = await api.provenBackup(OWNED);
    const further = await api.ended(
      (await api.startBackup(ticket, { archiveId, rackId: null })).body.id,
    );
    expect(further.state).toBe('done');
    expect(await erased()).toBe('not-proven');
    const proof = await prove(backupId);
    expect(proof.state).toBe('done');
    expect(await mayErase()).toMatchObject({ allowed: true });
  });

  test('a proof that is older than the house allows is asked for again', async () => {
    const { backupId } = await api.provenBackup(OWNED);
    await db.query('update proofs set at = at - interval 4 day where backup_id = ?', [backupId]);
    expect((await mayErase()).because).toMatch(/older than the house allows \(three days\)/);
    expect(await erased()).toBe('not-proven');
    const { body: rules } = await api.get<object>('/api/settings');
    await api.send('PUT', '/api/settings', { ...rules, proofAge: '168' });
    expect(await mayErase()).toMatchObject({ allowed: true });
    await api.send('PUT', '/api/settings', rules);
  });

  test('what was found last counts, though the clock was wrong when it was found', async () => {
    const { archiveId, backupId } = await api.provenBackup(OWNED);
    const folder = await folderOf(archiveId);
    const [pack = ''] = readdirSync(join(folder, 'data/packs'));
    const path = join(folder, 'data/packs', pack);
    const good = readFileSync(path);
    const bad = Buffer.from(good);
    bad.writeUInt8(bad.readUInt8(500) ^ 1, 500);
    writeFileSync(path, bad);
    writeFileSync(clockFile, String(-10 * 60_000));
    expect((await prove(backupId)).state).toBe('failed');
    writeFileSync(clockFile, '0');
    expect(await mayErase()).toMatchObject({ allowed: false });
    expect(await erased()).toBe('not-proven');
    const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
    expect(archive).toMatchObject({ damaged: true, provenAt: null });
    writeFileSync(path, good);
    expect((await prove(backupId)).state).toBe('done');
    expect(await mayErase()).toMatchObject({ allowed: true });
  });

  test('and one bit flipped in a pack is found by a proof, told, and no erase rests on it', async () => {
    const { archiveId, backupId } = await api.provenBackup(OWNED);
    const folder = await folderOf(archiveId);
    const [pack = ''] = readdirSync(join(folder, 'data/packs'));
    const path = join(folder, 'data/packs', pack);
    const bytes = readFileSync(path);
    bytes.writeUInt8(bytes.readUInt8(500) ^ 1, 500);
    writeFileSync(path, bytes);
    const proof = await prove(backupId);
    expect(proof.problem?.what).toMatch(/is not what was written/);
    expect(await erased()).toBe('not-proven');
  });
});

describe('a restore out of a damaged archive', () => {
  test('puts everything else on the device, says what is missing and why, and blames no cable', async () => {
    const source = mkdtempSync(join(tmpdir(), 'cellar-source-'));
    const target = mkdtempSync(join(tmpdir(), 'cellar-target-'));
    mkdirSync(join(source, 'photographs'));
    for (const name of ['a.jpg', 'b.jpg', 'c.jpg'])
      writeFileSync(join(source, 'photographs', name), randomBytes(400_000));
    const from = await product.plugFolder(source, 3);
    const onto = await product.plugFolder(target, 4);
    try {
      const { archiveId, backupId } = await api.provenBackup(from.facts.id);
      const packs = join(await folderOf(archiveId), 'data/packs');
      const large = readdirSync(packs).find((name) => statSync(join(packs, name)).size > 400_000);
      const path = join(packs, large ?? '');
      const bytes = readFileSync(path);
      bytes.writeUInt8(bytes.readUInt8(1000) ^ 1, 1000);
      writeFileSync(path, bytes);
      const started = await api.post(`/api/backups/${backupId}/restores`, {
        deviceId: onto.facts.id,
        serialTail: onto.facts.serial.slice(-4),
        password: PASSWORD,
      });
      const ended = await api.ended(started.body.id);
      expect(ended).toMatchObject({ state: 'failed', problem: { code: 'restore-incomplete' } });
      expect(ended.problem?.what).toBe(
        '2 items on the device, each compared with the backup. Damaged in the archive and left out: photographs (1).',
      );
      const there = readdirSync(join(target, 'photographs'));
      expect(there).toHaveLength(2);
      for (const name of there) {
        expect(readFileSync(join(target, 'photographs', name))).toEqual(
          readFileSync(join(source, 'photographs', name)),
        );
      }
    } finally {
      for (const { facts } of [from, onto]) await product.press(facts.id, { do: 'pull-cable' });
      for (const folder of [source, target]) rmSync(folder, { recursive: true, force: true });
    }
  });

  test('a new backup of the device into it heals it: it can be proven again', async () => {
    const { archiveId, backupId, ticket } = await api.provenBackup(OWNED);
    const packs = join(await folderOf(archiveId), 'data/packs');
    for (const name of readdirSync(packs)) {
      const bytes = readFileSync(join(packs, name));
      bytes.writeUInt8(bytes.readUInt8(70) ^ 1, 70);
      writeFileSync(join(packs, name), bytes);
    }
    expect((await prove(backupId)).state).toBe('failed');
    const again = await api.ended(
      (await api.startBackup(ticket, { archiveId, rackId: null })).body.id,
    );
    expect(resultOf(again, 'backup').newBytes).toBeGreaterThan(0);
    expect((await prove(again.backupId ?? '')).state).toBe('done');
    expect(await mayErase()).toMatchObject({ allowed: true });
  });
});

describe('a device that is used while its backup runs', () => {
  test('is in the backup as it was in the end, and no torn file passes for a proven one', async () => {
    const source = mkdtempSync(join(tmpdir(), 'cellar-source-'));
    const target = mkdtempSync(join(tmpdir(), 'cellar-target-'));
    mkdirSync(join(source, 'notes'));
    writeFileSync(join(source, 'notes/a.md'), 'taken first, and changed after');
    writeFileSync(join(source, 'notes/b.bin'), randomBytes(3_000_000));
    writeFileSync(join(source, 'notes/gone.md'), 'deleted in the middle');
    writeFileSync(join(source, 'notes/z.bin'), randomBytes(300_000));
    const from = await product.plugFolder(source, 3);
    const onto = await product.plugFolder(target, 4);
    try {
      await product.press(from.facts.id, { do: 'faults', faults: { rate: 1_000_000 } });
      const ticket = await api.openTicket(from.facts.id);
      const started = await api.startBackup(ticket);
      // The large file takes three seconds.
      await eventually('the large file’s turn', async () => {
        const { body: now } = await api.get<Operation>(`/api/operations/${started.body.id}`);
        return now.phase === 'taking';
      });
      await sleep(1000);
      writeFileSync(join(source, 'notes/a.md'), 'another note');
      writeFileSync(join(source, 'notes/b.bin'), randomBytes(2_900_000));
      rmSync(join(source, 'notes/gone.md'));
      writeFileSync(join(source, 'notes/new.md'), 'written in the middle');
      const done = await api.ended(started.body.id);
      expect(done).toMatchObject({ state: 'done', result: { items: 4, failed: [] } });
      expect((await prove(done.backupId ?? '')).state).toBe('done');
      const restored = await api.post(`/api/backups/${done.backupId}/restores`, {
        deviceId: onto.facts.id,
        serialTail: onto.facts.serial.slice(-4),
        password: PASSWORD,
      });
      expect((await api.ended(restored.body.id)).state).toBe('done');
      expect(execFileSync('diff', ['-r', source, target]).toString()).toBe('');
      // What is changed after that no backup holds: no erase.
      writeFileSync(join(source, 'notes/a.md'), 'and once more');
      const asked = await api.post(`/api/devices/${from.facts.id}/erase`, {
        serialTail: from.facts.serial.slice(-4),
      });
      const ended = asked.status === 200 ? await api.ended(asked.body.id) : null;
      expect(ended?.problem?.code ?? asked.body.code).toBe('not-proven');
      expect(readFileSync(join(source, 'notes/a.md'), 'utf8')).toBe('and once more');
    } finally {
      for (const { facts } of [from, onto]) await product.press(facts.id, { do: 'pull-cable' });
      for (const folder of [source, target]) rmSync(folder, { recursive: true, force: true });
    }
  });
});

describe('a rack whose drive is not mounted', () => {
  test('is not there, though its folder is: no backup goes onto the system’s disk', async () => {
    const { body: racks } = await api.get<Rack[]>('/api/racks');
    const [rack] = racks;
    const path = rack?.mounted ?? '';
    renameSync(path, `${path}.drive`);
    // What is left of a mount point.
    mkdirSync(path);
    try {
      expect(await api.rackOnce(rack?.id, 'away')).toMatchObject({ free: 0 });
      const ticket = await api.openTicket(OWNED);
      const refused = await api.startBackup(ticket, { rackId: rack?.id });
      expect(refused.body.code).toBe('rack-not-here');
      expect(readdirSync(path)).toEqual([]);
    } finally {
      rmSync(path, { recursive: true });
      renameSync(`${path}.drive`, path);
    }
  });

  test('another rack’s drive in its place is not it', async () => {
    const { body: racks } = await api.get<Rack[]>('/api/racks');
    const [first, second] = racks;
    const marker = join(first?.mounted ?? '', '.bright-cellar-rack');
    const own = readFileSync(marker);
    cpSync(join(second?.mounted ?? '', '.bright-cellar-rack'), marker);
    const ticket = await api.openTicket(OWNED);
    const refused = await api.startBackup(ticket, { rackId: first?.id });
    expect(refused.body.code).toBe('rack-not-here');
    writeFileSync(marker, own);
  });
});

describe('work on one thing', () => {
  test('is one at a time: a second is refused before it starts, on the device and on the archive', async () => {
    const { archiveId, backupId, ticket } = await api.provenBackup(OWNED);
    await product.press(OWNED, { do: 'faults', faults: { latencyMs: 400 } });
    const running = await api.startBackup(ticket, { archiveId, rackId: null });
    expect(running.status).toBe(200);
    const proof = await api.post(`/api/backups/${backupId}/proofs`, {
      level: 'bytes',
      password: '',
    });
    expect(proof.body.code).toBe('archive-in-use');
    expect((await erase()).body.code).toBe('device-busy');
    await api.post(`/api/operations/${running.body.id}/stop`);
    await product.press(OWNED, { do: 'faults', faults: { latencyMs: 0 } });
    await api.ended(running.body.id);
    // And free again after, with nothing left behind.
    const [locks] = await db.query<mysql.RowDataPacket[]>('select * from operation_locks');
    expect(locks).toEqual([]);
    await api.post(`/api/operations/${running.body.id}/discard`);
  });
});

test('of eight that start at once one starts, and the others are told why not', async () => {
  const ticket = await api.openTicket(OWNED);
  for (let round = 0; round < 3; round++) {
    await product.press(OWNED, { do: 'faults', faults: { latencyMs: 400 } });
    const answers = await Promise.all(Array.from({ length: 8 }, () => api.startBackup(ticket)));
    const started = answers.filter(({ status }) => status === 200);
    expect(started).toHaveLength(1);
    const refused = answers.filter(({ status }) => status !== 200);
    expect([...new Set(refused.map(({ body }) => body.code))]).toEqual(['device-busy']);
    await api.post(`/api/operations/${started[0]?.body.id}/stop`);
    await product.press(OWNED, { do: 'faults', faults: { latencyMs: 0 } });
    await api.ended(started[0]?.body.id ?? '');
    await api.post(`/api/operations/${started[0]?.body.id}/discard`);
  }
});

describe('a password that is changed', () => {
  test('and its process dies in between: what the rack holds and what the catalogue says agree again', async () => {
    const { archiveId, backupId } = await api.provenBackup(OWNED);
    const changed = await api.post(`/api/archives/${archiveId}/holder`, {
      password: PASSWORD,
      newPassword: 'another four words here',
      passwordHolder: 'shop',
      reminder: 'after',
    });
    expect(changed.status).toBe(200);
    // As it is after the medium has decided and before the catalogue was told.
    const [[copy]] = (await db.query<mysql.RowDataPacket[][]>(
      'select * from copies where archive_id = ?',
      [archiveId],
    )) as unknown as [mysql.RowDataPacket[]];
    const [[ticket]] = (await db.query(
      'select ticket_id, (select id from technicians limit 1) as by_id from archives where id = ?',
      [archiveId],
    )) as unknown as [mysql.RowDataPacket[]];
    await db.query('update copies set digest = ?, generation = generation - 1 where id = ?', [
      'before',
      copy?.id,
    ]);
    await db.query("update archives set reminder = 'before' where id = ?", [archiveId]);
    const change = {
      state: {
        manifestDigest: copy?.digest as string,
        payloadBytes: copy?.stored_bytes as number,
        generation: copy?.generation as number,
      },
      archive: { passwordHolder: 'shop', reminder: 'after' },
      audit: {
        technicianId: ticket?.by_id as string,
        ticketId: ticket?.ticket_id as string,
        action: 'password-changed',
        what: 'The password of the archive was changed.',
      },
    };
    await db.query('insert into copy_changes values (?, ?)', [
      copy?.id,
      JSON.stringify({ version: 1, value: change }),
    ]);
    process.kill(product.workPid() ?? 0, 'SIGKILL');
    await eventually('the catalogue to be settled', async () => {
      const { body } = await api.get<Archive>(`/api/archives/${archiveId}`);
      return body.reminder === 'after';
    });
    const [[settled]] = (await db.query('select digest, generation from copies where id = ?', [
      copy?.id,
    ])) as unknown as [mysql.RowDataPacket[]];
    expect(settled).toEqual({
      digest: copy?.digest as string,
      generation: copy?.generation as number,
    });
    const proof = await eventually('a work process that takes orders', async () => {
      const answer = await api.post(`/api/backups/${backupId}/proofs`, {
        level: 'full',
        password: 'another four words here',
      });
      return answer.status === 200 ? answer.body : null;
    });
    expect((await api.ended(proof.id)).state).toBe('done');
  });
});
