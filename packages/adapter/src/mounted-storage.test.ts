import { execFileSync } from 'node:child_process';
import {
  chmod,
  mkdir,
  mkdtemp,
  readFile,
  readdir,
  rename,
  rm,
  symlink,
  writeFile,
} from 'node:fs/promises';
import { join } from 'node:path';
import {
  dataClassIds,
  serialRead,
  type DeviceFacts,
  type MountedFolder,
} from '@bright-cellar/core';
import {
  DeviceLink,
  LINK_PREFIX,
  type Entry,
  type LinkErrorCode,
} from '@bright-cellar/device-link';
import express from 'express';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { Berths } from './berths.js';
import { entryAt } from './folder-index.js';
import { linkRoutes } from './link-routes.js';
import { mediumOf, Mounts } from './mounts.js';
import { served } from './served.js';

let home: string;
let media: string;
let link: DeviceLink;
/** Folders on a medium that does not answer any more. */
const hanging = new Set<string>();
let end: () => Promise<void>;

beforeEach(async () => {
  // Where whoever is not root may go: a test is done as somebody else.
  home = await mkdtemp('/tmp/cellar-adapter-');
  media = join(home, 'media');
  await mkdir(media);
  const berths = new Berths(2, 0);
  hanging.clear();
  const mounts = new Mounts(berths, {
    look: (folder) => (hanging.has(folder) ? new Promise(() => undefined) : mediumOf(folder)),
    silentMs: 300,
  });
  const app = express();
  const token = 'a token of a test';
  app.use(LINK_PREFIX, linkRoutes({ name: 'Test', token, berths, mounts }));
  const { port, stop } = await served(app, 0);
  link = new DeviceLink({ address: `http://127.0.0.1:${port}`, token, pauseMs: 10 });
  await link.arrange({ berths: 2, places: [`${media}/*`] });
  end = async () => {
    mounts.end();
    await stop();
  };
});
afterEach(async () => {
  await end();
  await rm(home, { recursive: true, force: true });
});

/** A medium with files on it. */
async function mounted(name: string, files: Record<string, string>): Promise<string> {
  for (const [path, contents] of Object.entries(files)) {
    await mkdir(join(media, name, path, '..'), { recursive: true });
    await writeFile(join(media, name, path), contents);
  }
  return join(media, name);
}

const connect = (folder: string, more: Partial<MountedFolder> = {}): Promise<DeviceFacts> =>
  link.connectStorage({
    ...{ folder, of: 'device', kind: 'phone', name: 'Grey one', model: 'Slate 4', serial: null },
    ...more,
  });

async function everything({ id }: DeviceFacts): Promise<Entry[]> {
  const all: Entry[] = [];
  for (const dataClass of dataClassIds) {
    for await (const entry of link.entries(id, dataClass)) all.push(entry);
  }
  return all;
}

async function text({ id }: DeviceFacts, entry: Entry): Promise<string> {
  const pieces: Uint8Array[] = [];
  for await (const piece of link.read(id, entry)) pieces.push(piece);
  return Buffer.concat(pieces).toString('utf8');
}

const refused = (code: LinkErrorCode) => expect.objectContaining({ code }) as Error;

test('a mounted folder is a device: its files by what is in them, read as they are', async () => {
  const folder = await mounted('STORE', {
    'DCIM/Camera/one.jpg': 'picture',
    'Movies/two.mp4': 'film',
    'Music/three.ogg': 'song',
    'Download/people.vcf': 'BEGIN:VCARD',
    'letter.odt': 'letter',
    'notes/a.md': 'note',
  });
  await mkdir(join(folder, 'Empty'));
  const device = await connect(folder);
  expect(device).toMatchObject({ berth: 1, name: 'Grey one', model: 'Slate 4', empty: false });
  expect(device.capabilities).toMatchObject({ backup: 'storage', erase: false });
  expect([device.charge, device.osVersion, serialRead(device.serial)]).toEqual([null, '', null]);
  const all = await everything(device);
  const found = Object.fromEntries(all.map((entry) => [entry.path, [entry.class, entry.group]]));
  expect(found).toEqual({
    'DCIM/Camera/one.jpg': ['photographs', 'DCIM/Camera'],
    'Movies/two.mp4': ['videos', 'Movies'],
    'Music/three.ogg': ['music', 'Music'],
    'Download/people.vcf': ['contacts', ''],
    'letter.odt': ['documents', ''],
    'notes/a.md': ['notes', ''],
    Empty: ['documents', ''],
  });
  const picture = all.find(({ path }) => path.endsWith('one.jpg'));
  expect(picture && (await text(device, picture))).toBe('picture');
});

test('what lies in no place for storage is not taken, nor by a link out of one; nor what is there already', async () => {
  const outside = join(home, 'outside');
  await mkdir(outside);
  await symlink(outside, join(media, 'way-out'));
  for (const folder of [outside, join(media, 'way-out'), media, `${media}/../outside`, 'media']) {
    await expect(connect(folder), folder).rejects.toThrow(refused('not-valid'));
  }
  const folder = await mounted('STORE', { 'in/a.txt': 'a' });
  await expect(connect(join(folder, 'in/a.txt'))).rejects.toThrow(refused('not-valid'));
  const twice = await Promise.allSettled([1, 2].map(() => connect(folder, { serial: 'SERIAL1' })));
  expect(twice.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  await expect(connect(join(folder, 'in'))).rejects.toThrow(refused('busy'));
  const other = await mounted('OTHER', { 'b.txt': 'b' });
  await expect(connect(other, { serial: 'SERIAL1' })).rejects.toThrow(refused('busy'));
  await connect(other);
  await expect(connect(await mounted('THIRD', { 'c.txt': 'c' }))).rejects.toThrow(refused('busy'));
});

test('what is unmounted is gone; another medium in its place is not taken for it', async () => {
  const folder = await mounted('STORE', { 'a.txt': 'a' });
  const device = await connect(folder, { serial: 'SERIAL1' });
  await rename(folder, join(home, 'pulled'));
  await mounted('STORE', { 'somebody-elses.txt': 'x' });
  await expect
    .poll(() => link.facts(device.id).catch((error: unknown) => error))
    .toMatchObject({ code: 'no-such-device' });
  // The same device, where somebody says so, wherever it is mounted.
  await rm(folder, { recursive: true });
  await rename(join(home, 'pulled'), join(media, 'ELSEWHERE'));
  const again = await connect(join(media, 'ELSEWHERE'), { serial: 'SERIAL1' });
  expect(again.id).toBe(device.id);
  await link.letStorageGo(again.id);
  await expect(link.facts(again.id)).rejects.toThrow(refused('no-such-device'));
  expect(await readdir(join(media, 'ELSEWHERE'))).toEqual(['a.txt']);
});

test('a medium that hangs is gone after a while, and holds up no other', async () => {
  const [hangs, stays] = [await mounted('HANGS', { a: 'a' }), await mounted('STAYS', { b: 'b' })];
  const device = await connect(hangs, { serial: 'SERIAL1' });
  const other = await connect(stays, { serial: 'SERIAL2' });
  hanging.add(hangs);
  const code = async ({ id }: DeviceFacts) =>
    link.facts(id).then(
      () => 'here',
      (error: unknown) => (error as { code: string }).code,
    );
  await expect.poll(() => code(device)).toBe('no-such-device');
  await expect(connect(hangs)).rejects.toThrow(refused('not-valid'));
  expect(await code(other)).toBe('here');
  await rename(stays, join(home, 'pulled'));
  await expect.poll(() => code(other)).toBe('no-such-device');
});

/** As somebody whom permissions hold back: not as root. */
async function asAnybody(work: () => Promise<void>): Promise<void> {
  const isRoot = process.getuid?.() === 0;
  if (isRoot) process.seteuid?.(65_534);
  try {
    await work();
  } finally {
    if (isRoot) process.seteuid?.(0);
  }
}

test('what cannot be read is listed all the same, and refused when it is asked for', async () => {
  const folder = await mounted('STORE', { 'shut/a.txt': 'a', 'b.txt': 'b', 'c.txt': 'c' });
  // A name that is no text.
  await writeFile(Buffer.concat([Buffer.from(`${folder}/d`), Buffer.from([0xff])]), 'd');
  await chmod(home, 0o755);
  await chmod(join(folder, 'shut'), 0);
  await chmod(join(folder, 'b.txt'), 0);
  await asAnybody(async () => {
    const device = await connect(folder);
    const all = await everything(device);
    const outcomes = await Promise.all(
      all.map(async (entry) => [
        entry.path,
        await text(device, entry).catch((error: unknown) => error),
      ]),
    );
    expect(Object.fromEntries(outcomes)).toEqual({
      'b.txt': refused('read-error'),
      'c.txt': 'c',
      'd\uFFFD': refused('read-error'),
      shut: refused('read-error'),
    });
  });
  await chmod(join(folder, 'shut'), 0o700);
});

test('nothing is followed out of it, whatever took the place of a folder meanwhile', async () => {
  await mkdir(join(home, 'secret'));
  await writeFile(join(home, 'secret/a.txt'), 'from elsewhere');
  const folder = await mounted('STORE', { 'in/a.txt': 'from here, as it was' });
  await symlink(join(home, 'secret/a.txt'), join(folder, 'link.txt'));
  const device = await connect(folder);
  const all = await everything(device);
  const linked = all.find(({ kind }) => kind === 'link');
  // A link is its target's name, never what lies there.
  expect(linked && (await text(device, linked))).toBe(join(home, 'secret/a.txt'));
  const inside = all.find(({ path }) => path === 'in/a.txt');
  await rm(join(folder, 'in'), { recursive: true });
  await symlink(join(home, 'secret'), join(folder, 'in'));
  expect(inside && (await text(device, inside).catch((error: unknown) => error))).toEqual(
    refused('changed'),
  );
});

const sent = { class: 'photographs', kind: 'file', modified: new Date(0).toISOString() } as const;
async function* bytes(contents: string) {
  yield Buffer.from(contents);
}

test('a backup is put onto storage that holds nothing but empty folders, whole, and onto no other', async () => {
  const folder = await mounted('STORE', { 'DCIM/old.jpg': 'x' });
  const device = await connect(folder, { serial: 'SERIAL1' });
  const offer = { serial: 'SERIAL1', family: 'storage', osVersion: '', items: 1, bytes: 7 };
  await expect(link.beginRestore(device.id, offer)).rejects.toThrow(refused('in-use'));
  await rm(join(folder, 'DCIM/old.jpg'));
  await expect(link.beginRestore(device.id, { ...offer, serial: 'OTHER1' })).rejects.toThrow(
    refused('wrong-serial'),
  );
  const restore = await link.beginRestore(device.id, offer);
  const entry = { ...sent, path: 'DCIM/Camera/new.jpg', bytes: 7, mode: 0o640 };
  const out = { ...entry, path: '../out.jpg' };
  await expect(link.write(device.id, restore, out, bytes('picture'))).rejects.toThrow(
    refused('not-valid'),
  );
  expect(await link.write(device.id, restore, entry, bytes('picture'))).toBe(7);
  // Until all of it is there, none of it is.
  expect(await readdir(join(folder, 'DCIM'))).toEqual([]);
  await link.commitRestore(device.id, restore, { items: 1, bytes: 7 });
  await expect.poll(async () => (await link.facts(device.id)).activity).toBe('idle');
  expect(await readFile(join(folder, 'DCIM/Camera/new.jpg'), 'utf8')).toBe('picture');
  expect(await readdir(folder)).toEqual(['DCIM']);
  expect((await link.facts(device.id)).empty).toBe(false);
});

test('a file that came meanwhile, in the place of what is put there, stays as it is', async () => {
  const folder = await mounted('STORE', {});
  await mkdir(folder, { recursive: true });
  const device = await connect(folder, { serial: 'SERIAL1' });
  const offer = { serial: 'SERIAL1', family: 'storage', osVersion: '', items: 1, bytes: 7 };
  const restore = await link.beginRestore(device.id, offer);
  const entry = { ...sent, path: 'DCIM/new.jpg', bytes: 7, mode: null };
  await link.write(device.id, restore, entry, bytes('picture'));
  await mkdir(join(folder, 'DCIM'));
  await writeFile(join(folder, 'DCIM/new.jpg'), 'of somebody else');
  await link.commitRestore(device.id, restore, { items: 1, bytes: 7 });
  await expect.poll(async () => (await link.facts(device.id)).activity).toBe('idle');
  expect(await readFile(join(folder, 'DCIM/new.jpg'), 'utf8')).toBe('of somebody else');
});

test('what was recovered is read, and never written', async () => {
  const folder = join(media, 'STORE/recovered');
  await mkdir(folder, { recursive: true });
  const device = await connect(folder, { of: 'recovered', serial: 'SERIAL1' });
  expect(device.capabilities).toMatchObject({ backup: 'recovered', restore: 'none' });
  const offer = { serial: 'SERIAL1', family: 'storage', osVersion: '', items: 1, bytes: 7 };
  await expect(link.beginRestore(device.id, offer)).rejects.toThrow(refused('not-capable'));
});

test('a time within a second is told as that second, however late in it', async () => {
  const path = 'notes/late.md';
  await mkdir(join(home, 'notes'));
  await writeFile(join(home, path), 'late');
  execFileSync('touch', ['-d', '2026-03-28 09:00:00.9997 UTC', join(home, path)]);
  expect((await entryAt(home, path)).modified).toBe('2026-03-28T09:00:00.999Z');
});
