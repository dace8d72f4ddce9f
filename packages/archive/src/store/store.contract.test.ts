import { randomBytes, randomUUID } from 'node:crypto';
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { startBox, startObjects } from '@bright-cellar/rack-stand-ins';
import { afterAll, afterEach, describe, expect, test } from 'vitest';
import { pruneArchive } from '../care/prune.js';
import { checkTags, manifestDigest, tagFilesOf } from '../format/bag.js';
import { packName } from '../format/layout.js';
import { OpenArchive } from '../open/open-archive.js';
import { packFolder } from '../pack/pack-folder.js';
import { ESCROW, quickly, rackOn, refusal, treeOf, withIt, writeTree } from '../test-archives.js';
import { unpackBackup } from '../unpack/unpack.js';
import { recordProof, readProofs } from '../verify/proofs.js';
import { verifyOpen, verifySealed } from '../verify/verify.js';
import { repairFrom } from '../care/repair.js';
import { importBag } from '../care/import-bag.js';
import { ArchiveFiles } from './archive-files.js';
import { FolderStore } from './folder-store.js';
import { markRack, mustBeRack, rackRoom } from './identity.js';
import { openStore, type StoreAddress } from './kinds.js';
import { MemoryMedium } from './remote/memory-medium.js';
import { RemoteStore } from './remote/remote-store.js';
import { piecesOf, readWhole } from './read.js';
import type { Store } from './store.js';
import { tryStore } from './try-store.js';

const box = await startBox();
afterAll(() => box.stop());

const login = { accessKey: 'shop', secretKey: 'a key of the storage' };
const storage = await startObjects({ bucket: 'cellar', login });
afterAll(() => storage.stop());
const bucketAt = (workRoot: string): StoreAddress => ({
  ...{ kind: 'objects', endpoint: storage.address, region: 'here', bucket: 'cellar', login },
  ...{ prefix: `${randomUUID()}/`, capacity: 2 ** 30, workRoot },
});

function memoryStore(workRoot: string, capacity?: number): Store {
  const medium = new MemoryMedium(capacity);
  return new RemoteStore(medium, { address: null, workRoot, key: randomUUID() });
}

/** What every kind of rack must give; a new kind is a line here. */
const kinds: Record<string, (folder: string) => Promise<Store>> = {
  folder: async (folder) => new FolderStore(folder),
  memory: async (workRoot) => memoryStore(workRoot),
  objects: async (workRoot) => openStore(bucketAt(workRoot)),
  sftp: async (workRoot) => openStore(rackOn(box, randomUUID(), workRoot)),
};

const folders: string[] = [];
async function newFolder(): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), 'cellar-store-'));
  folders.push(folder);
  return folder;
}
afterEach(async () => {
  for (const folder of folders.splice(0)) await rm(folder, { recursive: true, force: true });
});

const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'none',
    (error: unknown) => (error as { code?: string }).code,
  );

const namesBelow = async (store: Store, prefix: string) =>
  (await store.list(prefix)).map(({ name }) => name);

const one = (store: Store) => new ArchiveFiles(store, 'one');
const pack = (n: number) => packName(n.toString(16).padStart(32, '0'));

/** Makes an archive of some files, or the next state of it. */
async function swap(
  files: ArchiveFiles,
  {
    from,
    add = {},
    incoming = [],
    remove = [],
  }: {
    from: string | null;
    add?: Record<string, Uint8Array>;
    incoming?: string[];
    remove?: string[];
  },
  beforeDeciding: () => Promise<void> = async () => undefined,
): Promise<string | null> {
  const { root } = await files.work();
  const coming: { from: string; to: string }[] = [];
  for (const [to, bytes] of Object.entries(add)) {
    const draft = `pending/test/${coming.length}.pack`;
    await mkdir(dirname(join(root, draft)), { recursive: true });
    await writeFile(join(root, draft), bytes);
    coming.push({ from: draft, to });
  }
  // Each state's manifest is its own.
  const manifest = new Map([[pack(0), randomBytes(64).toString('hex')]]);
  const tags = tagFilesOf(randomUUID(), manifest, 0, '2026-11-27');
  const next = { from, add: coming, incoming, remove, tags, work: ['test'] };
  await files.swap(next, beforeDeciding);
  return manifestDigest(files);
}

describe.each(Object.entries(kinds))('a rack: %s', (_, make) => {
  const newStore = async () => make(await newFolder());

  test('gives back what was put, whole and from anywhere', async () => {
    const store = await newStore();
    const bytes = randomBytes(3_000_000);
    const pieces = async function* () {
      for (let at = 0; at < bytes.length; at += 700_000) yield bytes.subarray(at, at + 700_000);
    };
    await store.put('file', pieces(), 'if-absent');
    await store.put('text', 'words', 'if-absent');
    expect(String(await readWhole(store, 'text', 100))).toBe('words');
    expect(await codeOf(readWhole(store, 'text', 4))).toBe('EFBIG');
    const file = await store.open('file');
    expect(file.size).toBe(bytes.length);
    for (const [from, length] of [
      [0, 10],
      [1_234_567, 1_000_000],
      [2_999_990, 10],
    ] as const) {
      const into = Buffer.alloc(length);
      expect(await file.read(into, from)).toBe(length);
      expect(into.equals(bytes.subarray(from, from + length))).toBe(true);
    }
    // Fewer at its end, and none behind it.
    expect(await file.read(Buffer.alloc(100), bytes.length - 7)).toBe(7);
    expect(await file.read(Buffer.alloc(100), bytes.length)).toBe(0);
    file.close();
    const all: Buffer[] = [];
    for await (const piece of piecesOf(store, 'file')) all.push(Buffer.from(piece));
    expect(Buffer.concat(all).equals(bytes)).toBe(true);
  });

  test('puts nothing over another unless told to, and leaves nothing of what was cut off', async () => {
    const store = await newStore();
    await store.put('file', 'first', 'if-absent');
    expect(await codeOf(store.put('file', 'second', 'if-absent'))).toBe('EEXIST');
    expect(String(await readWhole(store, 'file', 100))).toBe('first');
    await store.put('file', 'second', 'over');
    expect(String(await readWhole(store, 'file', 100))).toBe('second');
    const cut = async function* () {
      yield Buffer.from('half');
      throw new Error('cut');
    };
    await expect(store.put('other', cut(), 'if-absent')).rejects.toThrow('cut');
    await expect(store.put('file', cut(), 'over')).rejects.toThrow('cut');
    expect(await namesBelow(store, '')).toEqual(['file']);
    expect(String(await readWhole(store, 'file', 100))).toBe('second');
  });

  test('says what is not there, and puts nothing into an archive that is not there', async () => {
    const store = await newStore();
    expect(await codeOf(store.open('nothing'))).toBe('ENOENT');
    expect(await codeOf(store.open('one/data/archive.json'))).toBe('ENOENT');
    expect(await store.list('one/data/')).toEqual([]);
    await store.remove('nothing');
    expect(await codeOf(store.put('one/proofs/x.json', '{}', 'over'))).toBe('ENOENT');
    expect(await store.list('')).toEqual([]);
  });

  test('says which it is, and what room it has', async () => {
    const store = await newStore();
    const rack = randomUUID();
    expect(await store.identity()).toBeNull();
    expect(await refusal(mustBeRack(store, rack))).toBe('rack-not-here');
    await markRack(store, rack);
    expect(await store.identity()).toBe(rack);
    expect(await refusal(mustBeRack(store, randomUUID()))).toBe('rack-not-here');
    const room = await rackRoom(store, rack);
    expect(room.free).toBeGreaterThan(0);
    expect(room.capacity).toBeGreaterThanOrEqual(room.free);
    await markRack(store, randomUUID());
    expect(await refusal(rackRoom(store, rack))).toBe('rack-not-here');
  });

  test('is tried, and nothing of that stays', async () => {
    const store = await newStore();
    const tried = await tryStore(store, 3_000_001);
    expect(tried).toMatchObject({ isSound: true, keepsFirst: true });
    expect(Math.min(tried.writeRate, tried.readRate, tried.room.free)).toBeGreaterThan(0);
    expect(await store.list('')).toEqual([]);
  });

  test('brings an archive from one state to the next, and only from the state it was made from', async () => {
    const store = await newStore();
    expect((await store.work('one')).isNew).toBe(true);
    const first = await swap(one(store), { from: null, add: { [pack(1)]: Buffer.from('one') } });
    expect((await store.work('one')).isNew).toBe(false);
    expect(first).not.toBeNull();
    const second = await swap(one(store), {
      ...{ from: first, add: { [pack(2)]: Buffer.from('two') }, remove: [pack(1)] },
    });
    expect(second).not.toBe(first);
    expect((await namesBelow(store, 'one/')).some((name) => name.includes('pending'))).toBe(false);
    expect(await namesBelow(store, 'one/data/')).toEqual([`one/${pack(2)}`]);
    // Somebody still believes in the first state, or in none.
    for (const from of [first, null]) {
      const late = swap(one(store), { from, add: { [pack(3)]: Buffer.from('three') } });
      expect(await refusal(late)).toBe('archive-changed');
    }
    expect(await manifestDigest(one(store))).toBe(second);
    expect(await namesBelow(store, 'one/data/')).toEqual([`one/${pack(2)}`]);
  });

  test('decides nothing where it was called off at the last moment, and the files come with the next', async () => {
    const store = await newStore();
    const first = await swap(one(store), { from: null, add: { [pack(1)]: Buffer.from('one') } });
    const calledOff = swap(
      one(store),
      { from: first, add: { [pack(2)]: Buffer.from('two') }, remove: [pack(1)] },
      () => Promise.reject(new Error('called off')),
    );
    await expect(calledOff).rejects.toThrow('called off');
    const files = one(store);
    expect(await manifestDigest(files)).toBe(first);
    expect(String(await files.read(pack(1), 10))).toBe('one');
    const lease = await files.lease('shared');
    await lease.release();
    await swap(one(store), { from: first, add: { [pack(2)]: Buffer.from('two') } });
    expect(String(await files.read(pack(2), 10))).toBe('two');
  });

  test('what is open can be read to its end, though it is removed meanwhile', async () => {
    const store = await newStore();
    const bytes = randomBytes(100_000);
    const first = await swap(one(store), { from: null, add: { [pack(1)]: bytes } });
    const file = await store.open(`one/${pack(1)}`);
    await swap(one(store), { from: first, remove: [pack(1)] });
    const into = Buffer.alloc(bytes.length);
    expect(await file.read(into, 0)).toBe(bytes.length);
    expect(into.equals(bytes)).toBe(true);
    file.close();
    expect(await codeOf(store.open(`one/${pack(1)}`))).toBe('ENOENT');
  });

  test('lets one add to an archive while others read it, and has it alone where something goes', async () => {
    const store = await newStore();
    const reader = await store.lease('one', 'shared');
    const update = await store.lease('one', 'update');
    expect(await refusal(store.lease('one', 'update'))).toBe('archive-in-use');
    expect(await refusal(store.lease('one', 'exclusive'))).toBe('archive-in-use');
    await (await store.lease('one', 'shared')).release();
    expect(() => update.upgrade()).toThrow(Failure);
    await reader.release();
    update.upgrade();
    expect(await refusal(store.lease('one', 'shared'))).toBe('archive-in-use');
    await update.release();
    await (await store.lease('one', 'exclusive')).release();
  });

  test('what is read while an archive is steady belongs to one state of it', async () => {
    const store = await newStore();
    const files = one(store);
    const other = one(store);
    let digest = await swap(other, { from: null, add: { [pack(1)]: Buffer.from('one') } });
    let seen = 0;
    const reading = (async () => {
      for (; seen < 1000 && digest !== null; seen++) {
        await files.steady(() => checkTags(files));
      }
    })();
    // Until both did enough beside each other: it is a race.
    for (let n = 2; n < 12 || (seen <= 10 && n < 200); n++) {
      digest = await swap(other, { from: digest, add: { [pack(n)]: Buffer.from('more') } });
    }
    digest = null;
    await reading;
    expect(seen).toBeGreaterThan(10);
  });

  test('takes in what came from another copy, whole, with the next state, and nothing before', async () => {
    const store = await newStore();
    const files = one(store);
    const names = async () => (await (await files.incoming()).list()).map(({ name }) => name);
    const bytes = randomBytes(1_500_000);
    const pieces = async function* () {
      yield bytes.subarray(0, 1_000_000);
      yield bytes.subarray(1_000_000);
    };
    const cut = async function* () {
      yield Buffer.from('half');
      throw new Error('cut');
    };
    const incoming = await files.incoming();
    expect(await names()).toEqual([]);
    await expect(incoming.put(pack(1), cut())).rejects.toThrow('cut');
    await incoming.put(pack(1), pieces());
    await incoming.put(pack(2), 'another');
    await incoming.remove(pack(2));
    await incoming.put(pack(2), 'once more');
    // Somebody else goes on from here.
    expect(await names()).toEqual([pack(1), pack(2)]);
    const read = await readWhole(await files.incoming(), pack(1), bytes.length);
    expect(read.equals(bytes)).toBe(true);
    expect((await files.work()).isNew).toBe(true);
    expect(await codeOf(files.open(pack(1)))).toBe('ENOENT');
    const first = await swap(files, { from: null, incoming: [pack(1), pack(2)] });
    expect(await namesBelow(store, 'one/data/')).toEqual([`one/${pack(1)}`, `one/${pack(2)}`]);
    expect((await files.read(pack(1), bytes.length)).equals(bytes)).toBe(true);
    expect(await names()).toEqual([]);
    // Into an archive that is there too, or given up.
    await (await files.incoming()).put(pack(3), 'more');
    await (await files.incoming()).discard();
    expect(await names()).toEqual([]);
    await (await files.incoming()).put(pack(4), 'and more');
    await swap(files, { from: first, incoming: [pack(4)], remove: [pack(1)] });
    expect(await namesBelow(store, 'one/data/')).toEqual([`one/${pack(2)}`, `one/${pack(4)}`]);
    expect((await namesBelow(store, 'one/')).some((name) => name.includes('pending'))).toBe(false);
  });

  test('takes an archive away, wholly, with what was on its way into it, and no other', async () => {
    const store = await newStore();
    const digest = await swap(one(store), { from: null, add: { [pack(1)]: Buffer.from('one') } });
    const next = new ArchiveFiles(store, 'one-2');
    await swap(next, { from: null, add: { [pack(1)]: Buffer.from('two') } });
    await (await one(store).incoming()).put(pack(2), 'on its way');
    await store.put('a file', 'words', 'over');
    expect(await store.folders()).toEqual(['one', 'one-2']);
    await store.remove('a file');
    expect(digest).not.toBeNull();
    await store.removeArchive('one');
    // Once more, as whoever was cut off would.
    await store.removeArchive('one');
    expect(await namesBelow(store, 'one/')).toEqual([]);
    expect((await one(store).work()).isNew).toBe(true);
    expect(await (await one(store).incoming()).list()).toEqual([]);
    expect((await next.work()).isNew).toBe(false);
    expect(await store.folders()).toEqual(['one-2']);
    expect(await namesBelow(store, 'one-2/data/')).toEqual([`one-2/${pack(1)}`]);
    await swap(one(store), { from: null, add: { [pack(1)]: Buffer.from('again') } });
    expect(String(await one(store).read(pack(1), 10))).toBe('again');
  });

  test('lets any number read an archive, or one change it', async () => {
    const store = await newStore();
    const readers = [await store.lease('one', 'shared'), await store.lease('one', 'shared')];
    expect(await refusal(store.lease('one', 'exclusive'))).toBe('archive-in-use');
    const other = await store.lease('another', 'exclusive');
    await other.release();
    for (const reader of readers) await reader.release();
    const change = await store.lease('one', 'exclusive');
    expect(await refusal(store.lease('one', 'shared'))).toBe('archive-in-use');
    expect(await refusal(store.lease('one', 'exclusive'))).toBe('archive-in-use');
    await change.release();
    // As often as one likes.
    await change.release();
    await (await store.lease('one', 'shared')).release();
  });

  test('is opened again by its address, where it has one', async () => {
    const store = await newStore();
    await store.put('file', 'words', 'if-absent');
    if (!store.address) return;
    const again = openStore(structuredClone(store.address));
    expect(String(await readWhole(again, 'file', 100))).toBe('words');
  });

  test('holds an archive through its whole life: taken, proven, taken further, pruned, mended, unpacked', async () => {
    const store = await newStore();
    const source = await newFolder();
    await writeTree(source, { 'notes/1.txt': 'one', 'photographs/1.jpg': randomBytes(300_000) });
    const files = one(store);
    const options = { source, files, secret: withIt, escrow: ESCROW, label: '', threads: 0 };
    const first = await packFolder(options);
    const other = new ArchiveFiles(new FolderStore(await newFolder()), 'other name');
    await writeTree(source, { 'notes/2.txt': 'two', 'photographs/1.jpg': randomBytes(300_000) });
    const second = await packFolder({ ...options, takenAt: new Date(Date.now() + 1000) });
    expect(second.generation).toBe(first.generation + 1);
    const open = () => OpenArchive.open(files, quickly, { threads: 0 });
    const archive = await open();
    try {
      const report = await verifyOpen(archive, { level: 'full', threads: 0 });
      expect(report.whole).toBe(true);
      expect(report.contents?.backups.map(({ items }) => items).sort()).toEqual([4, 5]);
      await recordProof(files, report, new Date());
      expect((await readProofs(files)).map(({ whole }) => whole)).toEqual([true]);
      expect(await pruneArchive(archive, [second.backup])).toMatchObject({
        removedBackups: [first.backup],
      });
    } finally {
      await archive.close();
    }
    await importBag(files, other);
    const [damaged = ''] = (await files.list('data/packs/')).map(({ name }) => name);
    await files.put(damaged, randomBytes(50), 'over');
    await files.put('data/packs/stray', 'x', 'over');
    expect((await verifySealed(files, { level: 'bytes', threads: 0 })).damagedFiles.sort()).toEqual(
      [damaged, 'data/packs/stray'].sort(),
    );
    expect(await repairFrom(files, other, { threads: 0 })).toEqual({
      repaired: [damaged],
      stillDamaged: [],
    });
    const mended = await open();
    try {
      expect((await verifyOpen(mended, { level: 'full', threads: 0 })).whole).toBe(true);
      const to = join(await newFolder(), 'out');
      await unpackBackup({ archive: mended, backup: second.backup, to });
      expect(treeOf(to)).toEqual(treeOf(source));
    } finally {
      await mended.close();
    }
  });
});

test('a rack that is full takes nothing more and keeps what it has', async () => {
  const store = memoryStore(await newFolder(), 1000);
  await store.put('file', randomBytes(900), 'if-absent');
  expect(await codeOf(store.put('other', randomBytes(200), 'if-absent'))).toBe('ENOSPC');
  expect(await namesBelow(store, '')).toEqual(['file']);
});
