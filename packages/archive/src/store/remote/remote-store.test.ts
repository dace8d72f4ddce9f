import { randomBytes, randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { Failure } from '@bright-cellar/core';
import { startBox, startObjects, type Box } from '@bright-cellar/rack-stand-ins';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { copyArchive } from '../../care/copy.js';
import { repairFrom } from '../../care/repair.js';
import { packFolder } from '../../pack/pack-folder.js';
import { ESCROW, rackOn, refusal, withIt, writeTree } from '../../test-archives.js';
import { verifySealed } from '../../verify/verify.js';
import { archiveIn, ArchiveFiles } from '../archive-files.js';
import { openStore, type StoreAddress } from '../kinds.js';
import { readWhole } from '../read.js';
import type { Store } from '../store.js';
import { codedError, type Medium } from './medium.js';
import { MemoryMedium } from './memory-medium.js';
import { RemoteStore } from './remote-store.js';

const folder = mkdtempSync(join(tmpdir(), 'cellar-remote-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const open = (address: StoreAddress): Store => openStore(address);
const newFolder = () => mkdtempSync(join(folder, 'x-'));

/** Two states of one archive on this computer. */
const states: ArchiveFiles[] = [];
beforeAll(async () => {
  const source = join(newFolder(), 'source');
  await writeTree(source, { 'a.txt': 'one', 'b.bin': randomBytes(9_000_000) });
  const own = archiveIn(join(newFolder(), 'archive'));
  const options = { source, secret: withIt, escrow: ESCROW, label: '', threads: 0 };
  await packFolder({ ...options, files: own });
  const before = archiveIn(join(newFolder(), 'archive'));
  await copyArchive({ from: own, to: before });
  await writeTree(source, { 'c.bin': randomBytes(300_000) });
  await packFolder({ ...options, files: own });
  states.push(before, own);
});

const isWhole = async (files: ArchiveFiles) =>
  (await verifySealed(files, { level: 'bytes', threads: 0 })).whole;

const said = (work: Promise<unknown>) =>
  work.then(
    () => '',
    (error: unknown) => (error instanceof Failure ? error.problem.what : String(error)),
  );

/** A medium whose line breaks with the request of a number, and with every one after. */
function breaking(medium: Medium, after: number): { medium: Medium; asked: () => number } {
  let asked = 0;
  const wrapped = new Proxy(medium, {
    get(target, name: keyof Medium) {
      return (...given: never[]) => {
        asked += 1;
        if (asked > after) return Promise.reject(codedError('ENOTCONN'));
        return (target[name] as (...all: never[]) => unknown).call(target, ...given);
      };
    },
  });
  return { medium: wrapped, asked: () => asked };
}

describe('a rack that is reached over a network', () => {
  test('wherever its line breaks, an archive there is whole, before or after, and the work goes on', async () => {
    const [first, second] = states as [ArchiveFiles, ArchiveFiles];
    let cuts = 0;
    for (let after = 0; ; after++) {
      const medium = new MemoryMedium();
      const options = { address: null, workRoot: newFolder(), key: randomUUID() };
      const sound = new ArchiveFiles(new RemoteStore(medium, options), 'one');
      await copyArchive({ from: first, to: sound });
      const broken = breaking(medium, after);
      const to = new ArchiveFiles(new RemoteStore(broken.medium, options), 'one');
      const isCut = await copyArchive({ from: second, to }).then(
        () => false,
        () => true,
      );
      // Whoever reads it next finds it as it was, or as it was to be.
      expect(await isWhole(sound), `after ${after}`).toBe(true);
      await copyArchive({ from: second, to: sound });
      expect(await isWhole(sound)).toBe(true);
      const names = (await medium.list('')).map(({ name }) => name);
      expect(names.filter((name) => !name.startsWith('one/'))).toEqual([]);
      if (!isCut) break;
      cuts += 1;
    }
    expect(cuts).toBeGreaterThan(20);
  });

  test('what comes and is nowhere any more is no new state: nothing goes for it, and nobody hears that it is there', async () => {
    const [first, second] = states as [ArchiveFiles, ArchiveFiles];
    const medium = new MemoryMedium();
    const options = { address: null, workRoot: newFolder(), key: randomUUID() };
    const to = new ArchiveFiles(new RemoteStore(medium, options), 'one');
    await copyArchive({ from: first, to });
    const before = (await medium.list('one/data/')).map(({ name }) => name);
    const move = medium.move.bind(medium);
    // Said, and not so: it lies where it lay.
    medium.move = () => Promise.reject(codedError('ENOENT'));
    expect(await refusal(copyArchive({ from: second, to }))).toBe('rack-not-here');
    medium.move = async (from, name) => {
      if (name.includes('/packs/')) await medium.remove(from);
      return move(from, name);
    };
    const other = new ArchiveFiles(new RemoteStore(medium, options), 'two');
    expect(await refusal(copyArchive({ from: second, to: other }))).toBe('not-read-back');
    // What was decided is carried out; what was to go for what is lost stays.
    expect(await isWhole(to)).toBe(false);
    const after = (await medium.list('one/data/')).map(({ name }) => name);
    expect(after).toEqual(expect.arrayContaining(before));
    medium.move = move;
    await repairFrom(to, second, { threads: 0 });
    expect(await isWhole(to)).toBe(true);
  });

  test('what another computer works on is taken over only when nothing was heard of it for long', async () => {
    const medium = new MemoryMedium();
    const options = { address: null, workRoot: newFolder(), key: randomUUID() };
    const store = new RemoteStore(medium, options);
    const note = (host: string) => JSON.stringify({ host, token: randomUUID() });
    // One of this computer's that was killed.
    await medium.put('.in-use-one', note(hostname()), 'over');
    await (await store.lease('one', 'shared')).release();
    await medium.put('.in-use-one', note('another'), 'over');
    expect(await refusal(store.lease('one', 'shared'))).toBe('archive-in-use');
    const writtenAt = medium.writtenAt.bind(medium);
    medium.writtenAt = async (name) =>
      ((await writtenAt(name)) ?? 0) - (name === '.in-use-one' ? 180_000 : 0);
    await (await store.lease('one', 'shared')).release();
    expect(await medium.list('')).toEqual([]);
  });
});

describe('a box that speaks SFTP', () => {
  let box: Box;
  beforeAll(async () => (box = await startBox()));
  afterAll(() => box.stop());

  test('whose line breaks in the middle of a copy goes on from there', async () => {
    const [, second] = states as [ArchiveFiles, ArchiveFiles];
    const to = new ArchiveFiles(openStore(rackOn(box, 'cut', newFolder())), 'one');
    let sent = 0;
    const copying = copyArchive({
      ...{ from: second, to },
      async pace(bytes) {
        sent += bytes;
        if (sent > 8_000_000) box.cut();
      },
    });
    expect(await refusal(copying)).toBe('rack-not-here');
    const begun = sent;
    sent = 0;
    const copied = await copyArchive({
      from: second,
      to,
      pace: async (bytes) => void (sent += bytes),
    });
    expect(copied.sent.bytes).toBeGreaterThan(0);
    expect(begun).toBeGreaterThan(8_000_000);
    expect(await isWhole(to)).toBe(true);
    // Read by who knows nothing of us.
    expect(await isWhole(archiveIn(join(box.folder, 'cut/one')))).toBe(true);
  });

  test('whose line was broken gives the very file that was open, never another that has its number in the new session', async () => {
    const store = openStore(rackOn(box, 'handles', newFolder()));
    for (const name of ['one', 'two']) await store.put(name, name.repeat(1000), 'over');
    const one = await store.open('one');
    box.cut();
    const two = await vi.waitFor(() => store.open('two'), { timeout: 30_000 });
    const first = new Uint8Array(3);
    await one.read(first, 0);
    expect(String.fromCharCode(...first)).toBe('one');
    box.cut();
    await vi.waitFor(() => store.put('one', 'longer than before', 'over'), { timeout: 30_000 });
    expect(await refusal(Promise.resolve(one.read(new Uint8Array(3), 0)))).toBe('rack-not-here');
    const read = new Uint8Array(3);
    await two.read(read, 0);
    expect(String.fromCharCode(...read)).toBe('two');
    two.close();
    one.close();
  });

  test('whose line breaks in the middle of a check is asked again: it goes on, and is read to its end', async () => {
    const [, second] = states as [ArchiveFiles, ArchiveFiles];
    const there = new ArchiveFiles(openStore(rackOn(box, 'checked', newFolder())), 'one');
    await copyArchive({ from: second, to: there });
    let cuts = 0;
    const { whole } = await verifySealed(there, {
      ...{ level: 'bytes', threads: 0 },
      onProgress: () => cuts++ < 3 && box.cut(),
    });
    expect(whole).toBe(true);
    expect(cuts).toBeGreaterThan(3);
  });

  test('that is read slowly is still there, and its session ends only once nothing of it is open', async () => {
    const own = await startBox();
    try {
      const store = openStore(rackOn(own, 'slow', newFolder()));
      await store.put('one', 'one'.repeat(1000), 'over');
      const one = await store.open('one');
      await sleep(6_500);
      expect(own.sessions()).toBe(1);
      one.close();
      await expect.poll(() => own.sessions()).toBe(0);
    } finally {
      own.stop();
    }
  });

  test('that shows another host key gets nothing, nor does one that lets nobody in', async () => {
    const address = rackOn(box, 'pinned', newFolder());
    await openStore(address).put('file', 'words', 'over');
    const other = open({ ...address, hostKey: 'another' } as StoreAddress);
    expect(await said(other.identity())).toContain('another host key');
    const stranger = open({
      ...address,
      login: { kind: 'password', password: 'no' },
    } as StoreAddress);
    expect(await said(stranger.identity())).toContain('refuses');
    const nobody = open({ ...address, port: 1 } as StoreAddress);
    expect(await refusal(nobody.list(''))).toBe('rack-not-here');
  });

  test('that has a folder which cannot be written says so, and keeps what it has', async () => {
    const address = rackOn(box, 'gone', newFolder());
    rmSync(join(box.folder, 'gone'), { recursive: true });
    await expect(openStore(address).put('file', 'words', 'over')).rejects.toMatchObject({
      code: 'ENOENT',
    });
  });
});

describe('object storage', () => {
  const login = { accessKey: 'shop', secretKey: 'a key of the storage' };
  const bucket = 'cellar';
  const storeOf = (endpoint: string, own: object = {}): Store =>
    open({
      ...{ kind: 'objects', endpoint, region: 'here', bucket, login, capacity: 2 ** 30 },
      ...{ prefix: `${randomUUID()}/`, workRoot: newFolder(), ...own },
    });

  test('that is slow, fails and cuts answers off holds whole copies all the same', async () => {
    const [first, second] = states as [ArchiveFiles, ArchiveFiles];
    const standIn = await startObjects({ bucket, login });
    try {
      const to = new ArchiveFiles(storeOf(standIn.address), 'one');
      standIn.faults = { slowMs: 2, failEvery: 9, cutEvery: 13, skewMs: 0 };
      await copyArchive({ from: first, to });
      await copyArchive({ from: second, to });
      expect(await isWhole(to)).toBe(true);
    } finally {
      await standIn.stop();
    }
  });

  test('takes a long file in parts, and after a cut only those that it has not', async () => {
    const standIn = await startObjects({ bucket, login });
    try {
      const store = storeOf(standIn.address);
      const bytes = randomBytes(20 * 2 ** 20);
      const cut = async function* () {
        yield bytes.subarray(0, 17 * 2 ** 20);
        throw new Error('cut');
      };
      await expect(store.put('long', cut(), 'if-absent')).rejects.toThrow('cut');
      expect(await store.list('')).toEqual([]);
      const before = standIn.received;
      await store.put('long', bytes, 'if-absent');
      expect(standIn.received - before).toBeLessThan(5 * 2 ** 20);
      expect((await readWhole(store, 'long', bytes.length)).equals(bytes)).toBe(true);
      await expect(store.put('long', bytes, 'if-absent')).rejects.toMatchObject({ code: 'EEXIST' });
    } finally {
      await standIn.stop();
    }
  });

  test('whose clock is off is told the time that it wants; a wrong key or bucket is said', async () => {
    const standIn = await startObjects({ bucket, login });
    try {
      standIn.faults = { slowMs: 0, failEvery: 0, cutEvery: 0, skewMs: 3_600_000 };
      const store = storeOf(standIn.address);
      await store.put('file', 'words', 'if-absent');
      expect(String(await readWhole(store, 'file', 100))).toBe('words');
      const wrong = { accessKey: 'shop', secretKey: 'another' };
      expect(await said(storeOf(standIn.address, { login: wrong }).room())).toContain(
        'refuses the key',
      );
      expect(await said(storeOf(standIn.address, { bucket: 'other' }).room())).toContain(
        'no bucket',
      );
    } finally {
      await standIn.stop();
    }
  });
});
