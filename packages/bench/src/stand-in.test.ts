import { mkdir, mkdtemp, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { indexFolder, safeParts, writeEntry } from '@bright-cellar/adapter';
import { dataClassIds, linkDeviceSchema } from '@bright-cellar/core';
import { erasePermit } from '@bright-cellar/core/testing';
import { DeviceLink, LinkError, type Entry, type NewEntry } from '@bright-cellar/device-link';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { startBench, type RunningBench } from './bench.js';
import { generateContents } from './contents/generate.js';
import { SMALL_SIZE } from './contents/sizes.js';
import type { Definition, GivenCondition } from './stand-in-state.js';

const named = (id: string) => linkDeviceSchema.parse(id);

let home: string;
let bench: RunningBench;
let link: DeviceLink;

const definition = (id: string, change: Partial<Definition> = {}): Definition => ({
  id,
  family: 'vireo',
  kind: 'phone',
  model: 'Arc 7',
  name: id,
  serial: `SERIAL-${id}`,
  imei: null,
  osVersion: '17.2',
  capacity: 64e9,
  passcode: '1234',
  folder: null,
  ...change,
});
const open: GivenCondition = {
  berth: 1,
  unlocked: true,
  approved: true,
  ownerLock: 'off',
  charge: 80,
  passcodeSet: true,
  contents: null,
};

beforeEach(async () => {
  home = await mkdtemp(join(tmpdir(), 'cellar-bench-'));
  const contents = join(home, 'source');
  await mkdir(join(contents, 'notes'), { recursive: true });
  await writeFile(join(contents, 'notes/a.md'), 'alpha');
  await writeFile(join(contents, 'notes/b.md'), 'x'.repeat(900_000));
  bench = await startBench({
    port: 0,
    token: 'a test token that is long',
    folder: join(home, 'bench'),
    berths: 4,
    timing: { installMs: 60, eraseMs: 30, downloadMs: 20, ownerConfirms: true },
    devices: [
      { definition: definition('full'), condition: { ...open, contents } },
      { definition: definition('empty'), condition: { ...open, berth: 2, passcodeSet: false } },
      {
        definition: definition('other', { family: 'marl' }),
        condition: { ...open, berth: null, passcodeSet: false, workshopPort: 'on' },
      },
    ],
  });
  link = new DeviceLink({
    address: `http://127.0.0.1:${bench.port}`,
    token: 'a test token that is long',
    idleMs: 10_000,
  });
});
afterEach(async () => {
  await bench.stop();
  await rm(home, { recursive: true, force: true });
});

const device = (id: string) => {
  const found = bench.devices.get(id);
  if (!found) throw new Error(`no device ${id}`);
  return found;
};

async function entriesOf(id: string): Promise<Entry[]> {
  const all: Entry[] = [];
  for (const dataClass of dataClassIds) {
    for await (const entry of link.entries(named(id), dataClass)) all.push(entry);
  }
  return all;
}

async function read(id: string, entry: Entry | undefined): Promise<Buffer> {
  if (!entry) throw new Error('no such entry');
  const pieces: Uint8Array[] = [];
  for await (const piece of link.read(named(id), entry)) pieces.push(piece);
  return Buffer.concat(pieces);
}

/** Begins to listen, does it, and gives the events told up to the one that is waited for. */
async function seenUntil(last: string, work: () => unknown): Promise<string[]> {
  const seen: string[] = [];
  const stop = new AbortController();
  for await (const { type } of link.events(stop.signal)) {
    seen.push(type);
    if (type === 'bench') await work();
    if (type === last) break;
  }
  stop.abort();
  return seen;
}

/** What was sent is installed, off the bench, and the device is back. */
const commit = (restore: string, items: number, bytes: number) =>
  seenUntil('arrived', () => link.commitRestore(named('empty'), restore, { items, bytes }));

const refusal = (work: Promise<unknown>) =>
  work.then(
    () => 'none',
    (error: unknown) => (error instanceof LinkError ? error.code : String(error)),
  );

async function* bytesOf(text: string) {
  yield Buffer.from(text);
}
const newEntry = (path: string, text: string): NewEntry => ({
  class: 'notes',
  kind: 'file',
  path,
  bytes: text.length,
  modified: '2026-01-02T03:04:05.000Z',
  mode: 0o640,
});
const offer = { serial: 'SERIAL-empty', family: 'vireo', osVersion: '17.2', items: 1, bytes: 5 };

describe('reading over the link', () => {
  test('lists every entry and gives its bytes', async () => {
    const entries = await entriesOf('full');
    expect(entries.map((e) => e.path)).toEqual(['notes/a.md', 'notes/b.md']);
    expect((await read('full', entries[0])).toString()).toBe('alpha');
  });

  test('goes page by page through a long listing, each entry once', async () => {
    for (let i = 0; i < 2100; i++) await writeFile(join(home, 'source/notes', `${i}.txt`), '');
    await device('full').rescan();
    const paths = (await entriesOf('full')).map((e) => e.path);
    expect(paths).toHaveLength(2102);
    expect(new Set(paths).size).toBe(2102);
  });

  test('refuses what a locked or unapproved device would refuse, and a stranger', async () => {
    device('full').lock();
    expect(await refusal(entriesOf('full'))).toBe('locked');
    expect((await link.facts(named('full'))).content).toBeNull();
    expect(await refusal(entriesOf('nobody'))).toBe('no-such-device');
    const address = `http://127.0.0.1:${bench.port}`;
    const stranger = new DeviceLink({ address, token: 'another token' });
    expect(await refusal(stranger.facts(named('full')))).toBe('not-authorised');
  });

  test('contents that changed since they were listed are not passed off as the old ones', async () => {
    const [first] = await entriesOf('full');
    await writeFile(join(home, 'source/notes/a.md'), 'alphabet');
    expect(await refusal(read('full', first))).toBe('changed');
  });

  test('a pulled cable ends a read; the device is gone, not silent', async () => {
    const [, large] = await entriesOf('full');
    device('full').cable.faults = { ...device('full').cable.faults, cutAfterBytes: 300_000 };
    expect(await refusal(read('full', large))).toBe('no-such-device');
  });

  test('an unreadable entry is refused, and only that one', async () => {
    device('full').cable.faults = { ...device('full').cable.faults, unreadableEntries: 1 };
    const [first, second] = await entriesOf('full');
    expect((await read('full', first)).toString()).toBe('alpha');
    expect(await refusal(read('full', second))).toBe('read-error');
  });

  test('small ones come with one answer; what cannot be given so is told apart, and the rest comes', async () => {
    for (const name of ['c', 'd', 'e', 'f'])
      await writeFile(join(home, `source/notes/${name}.md`), `note ${name}`);
    await device('full').rescan();
    const entries = await entriesOf('full');
    await writeFile(join(home, 'source/notes/c.md'), 'changed since');
    await rm(join(home, 'source/notes/d.md'));
    await rm(join(home, 'source/notes/e.md'));
    await symlink('/etc/hostname', join(home, 'source/notes/e.md'));
    const given: (string | null)[] = [];
    for await (const one of link.readSmall(named('full'), entries))
      given.push(one?.toString() ?? null);
    expect(entries.map(({ path }) => path.slice(-4))).toEqual(
      ['a', 'b', 'c', 'd', 'e', 'f'].map((name) => `${name}.md`),
    );
    // The second is long.
    expect(given).toEqual(['alpha', null, null, null, null, 'note f']);
    device('full').lock();
    const locked = link.readSmall(named('full'), entries.slice(0, 1));
    expect((await locked.next()).value).toBeNull();
  });

  test('the rate of the cable is kept', async () => {
    const [, large] = await entriesOf('full');
    device('full').cable.faults = { ...device('full').cable.faults, rate: 3_000_000 };
    const began = performance.now();
    await read('full', large);
    // 0.9 MB at 3 MB/s; the last piece may be given out before its time is up.
    expect(performance.now() - began).toBeGreaterThan(150);
  });

  test('tells arrivals, changes and departures as they happen', async () => {
    const seen = await seenUntil('left', () => {
      device('full').setCharge(50);
      device('full').unplug();
    });
    expect(seen).toEqual(['bench', 'changed', 'left']);
  });
});

describe('restoring over the link', () => {
  test('what was sent is there after the device has been away', async () => {
    const id = await link.beginRestore(named('empty'), offer);
    expect(
      await link.write(named('empty'), id, newEntry('notes/new/x.md', 'hello'), bytesOf('hello')),
    ).toBe(5);
    expect(await commit(id, 1, 5)).toEqual(['bench', 'changed', 'left', 'arrived']);
    expect((await link.facts(named('empty'))).empty).toBe(false);
    const [entry] = await entriesOf('empty');
    expect(entry).toMatchObject({
      path: 'notes/new/x.md',
      mode: 0o640,
      modified: '2026-01-02T03:04:05.000Z',
    });
    expect((await read('empty', entry)).toString()).toBe('hello');
  });

  test('an owner lock that nobody saw shows itself once it was filled, and nobody reads it until that is off', async () => {
    device('empty').leaveOwnerLock();
    expect((await link.facts(named('empty'))).ownerLock).toBe('off');
    const id = await link.beginRestore(named('empty'), offer);
    await link.write(named('empty'), id, newEntry('notes/x.md', 'hello'), bytesOf('hello'));
    await commit(id, 1, 5);
    expect((await link.facts(named('empty'))).ownerLock).toBe('asking');
    expect(await refusal(entriesOf('empty'))).toBe('owner-locked');
    device('empty').ownerLockOff();
    expect(await entriesOf('empty')).toHaveLength(1);
  });

  test.each([
    ['wrong-serial', { ...offer, serial: 'SERIAL-full' }],
    ['wrong-family', { ...offer, family: 'marl' }],
    ['os-too-old', { ...offer, osVersion: '18' }],
    ['device-full', { ...offer, bytes: 60e9 }],
  ] as const)('the device itself says %s', async (code, wrong) => {
    expect(await refusal(link.beginRestore(named('empty'), wrong))).toBe(code);
  });

  test('a device in use, locked to its owner, or at work takes nothing', async () => {
    expect(
      await refusal(link.beginRestore(named('full'), { ...offer, serial: 'SERIAL-full' })),
    ).toBe('in-use');
    await link.beginRestore(named('empty'), offer);
    expect(await refusal(link.beginRestore(named('empty'), offer))).toBe('busy');
  });

  test('a commit that does not count what was sent is refused', async () => {
    const id = await link.beginRestore(named('empty'), offer);
    expect(await refusal(link.commitRestore(named('empty'), id, { items: 1, bytes: 5 }))).toBe(
      'not-valid',
    );
  });

  test('what changed is sent again in its place, and what is gone is taken back', async () => {
    const id = await link.beginRestore(named('empty'), offer);
    const send = (path: string, text: string) =>
      link.write(named('empty'), id, newEntry(path, text), bytesOf(text));
    await send('notes/a', 'before');
    await send('notes/b', 'gone later');
    await send('notes/a', 'now');
    await link.drop(named('empty'), id, 'notes/b');
    expect(await refusal(link.drop(named('empty'), id, 'notes/b'))).toBe('no-such-entry');
    expect(await refusal(link.drop(named('empty'), id, '../b'))).toBe('no-such-entry');
    await commit(id, 1, 3);
    expect((await link.facts(named('empty'))).empty).toBe(false);
    const [entry, ...others] = await entriesOf('empty');
    expect(others).toEqual([]);
    expect((await read('empty', entry)).toString()).toBe('now');
  });

  test('a device that runs full says so', async () => {
    device('empty').cable.faults = { ...device('empty').cable.faults, fullAfterBytes: 3 };
    const id = await link.beginRestore(named('empty'), offer);
    expect(
      await refusal(link.write(named('empty'), id, newEntry('notes/x', 'hello'), bytesOf('hello'))),
    ).toBe('device-full');
  });

  test('erasing needs the serial, and leaves an empty device', async () => {
    expect(await refusal(link.erase(named('full'), erasePermit('SERIAL-other')))).toBe(
      'wrong-serial',
    );
    await link.erase(named('full'), erasePermit('SERIAL-full'));
    expect(await link.facts(named('full'))).toMatchObject({ empty: true, lock: 'no-passcode' });
    // The folder it was made from is somebody's own: it is let go of, not deleted.
    expect(await readFile(join(home, 'source/notes/a.md'), 'utf8')).toBe('alpha');
  });
});

describe('a folder as a device', () => {
  test.each(['../out', 'a/../../out', '/etc/x', 'a//b', '.', 'a/./b', 'a\0b', ''])(
    'the path “%s” is never written',
    (path) => {
      expect(() => safeParts(path)).toThrow(LinkError);
    },
  );

  test('nothing is written through a link that leads out', async () => {
    const root = join(home, 'root');
    await mkdir(root);
    await symlink(home, join(root, 'out'));
    expect(await refusal(writeEntry(root, newEntry('out/x', 'hello'), bytesOf('hello')))).toBe(
      'not-valid',
    );
    await symlink(join(home, 'elsewhere'), join(root, 'file'));
    await expect(writeEntry(root, newEntry('file', 'hello'), bytesOf('hello'))).rejects.toThrow();
  });

  test('its revision changes with its contents and with nothing else', async () => {
    const folder = join(home, 'source');
    const before = (await indexFolder(folder)).revision;
    expect((await indexFolder(folder)).revision).toBe(before);
    await writeFile(join(folder, 'notes/c.md'), '');
    expect((await indexFolder(folder)).revision).not.toBe(before);
  });
});

test('made-up contents are the same for the same seed, real files, and fill every class they claim', async () => {
  const few = { ...SMALL_SIZE, people: 5, photographs: 2, photographWidth: 160, clipFrames: 2 };
  const make = async (name: string, seed: string) => {
    await generateContents(join(home, name), seed, { model: 'Arc 7', kind: 'phone' }, few);
    return indexFolder(join(home, name));
  };
  const one = await make('one', 'seed');
  expect((await make('two', 'seed')).revision).toBe(one.revision);
  expect((await make('three', 'other seed')).revision).not.toBe(one.revision);
  const head = async (dataClass: 'photographs' | 'contacts' | 'calendar') => {
    const path = one.byClass.get(dataClass)?.[0]?.path ?? '';
    return readFile(join(home, 'one', path));
  };
  const photograph = await head('photographs');
  expect(photograph.subarray(0, 3).toString('hex')).toBe('ffd8ff');
  expect(photograph.includes(Buffer.from('Exif'))).toBe(true);
  expect((await head('contacts')).toString()).toMatch(/^BEGIN:VCARD\r?\nVERSION:3.0/);
  expect((await head('calendar')).toString()).toMatch(/^BEGIN:VCALENDAR/);
  expect(one.amounts.length).toBeGreaterThan(10);
});

describe('a device that is used while it is read', () => {
  test('gives out contents of one state only: the last of them come when they are still the same', async () => {
    const { contents } = device('full').condition;
    const path = join(contents ?? '', 'notes/b.md');
    const entry = (await entriesOf('full')).find((e) => e.path === 'notes/b.md');
    device('full').cable.faults = { ...device('full').cable.faults, rate: 1_000_000 };
    const reading = refusal(read('full', entry));
    await new Promise((later) => setTimeout(later, 150));
    // Another hand writes into the very file.
    await writeFile(path, 'y'.repeat(900_000));
    expect(await reading).toBe('changed');
  });

  test('tells what it holds at the moment of asking, not what it remembers', async () => {
    const before = await link.revision(named('full'));
    expect(await link.revision(named('full'))).toBe(before);
    const { contents } = device('full').condition;
    await writeFile(join(contents ?? '', 'notes/a.md'), 'another alpha');
    const after = await link.revision(named('full'));
    expect(after).not.toBe(before);
    expect((await link.facts(named('full'))).contentRevision).toBe(after);
  });
});

describe('a device that was filled', () => {
  const filled = async () => {
    const restore = await link.beginRestore(named('empty'), offer);
    const entry = newEntry('applications/crossword/scores.json', '12345');
    await link.write(
      named('empty'),
      restore,
      { ...entry, class: 'applications' },
      bytesOf('12345'),
    );
    await commit(restore, 1, 5);
    expect((await link.facts(named('empty'))).activity).toBe('idle');
  };
  const settling = async () => (await link.facts(named('empty'))).settling;

  test('asks its owner step by step, and downloads its applications once it is on Wi-Fi', async () => {
    expect(await settling()).toEqual([]);
    await filled();
    expect((await settling()).map(({ id }) => id)).toEqual([
      ...['passcode', 'account', 'code', 'wifi', 'places', 'applications'],
    ]);
    const empty = device('empty');
    expect(() => empty.settle('applications')).toThrow('not-capable');
    empty.settle('passcode');
    expect((await settling())[0]).toEqual({ id: 'passcode', done: 1, of: 1 });
    empty.settle('wifi');
    await expect
      .poll(async () => (await settling()).at(-1))
      .toEqual({ id: 'applications', done: 1, of: 1 });
    await empty.erase();
    empty.approve('');
    expect(await settling()).toEqual([]);
  });
});

describe('things that are added', () => {
  test('may take the place of what is as it was read, or take that away; what was changed meanwhile is left alone', async () => {
    device('other').plug(3);
    const on = named('other');
    const adding = () => link.beginAddition(on, 'SERIAL-other');
    let addition = await adding();
    const [one, two] = ['notes/1.md', 'notes/2.md'].map((path) => newEntry(path, 'hello'));
    if (!one || !two) throw new Error('none');
    for (const note of [one, two]) await link.add(on, addition, note, bytesOf('hello'));
    await link.endAddition(on);
    const [first, second] = await entriesOf('other');
    if (!first || !second) throw new Error('none');
    addition = await adding();
    const other = newEntry(first.path, 'hello again');
    const over = (revision: string) =>
      link.add(on, addition, other, bytesOf('hello again'), undefined, revision);
    expect(await refusal(over('another'))).toBe('changed');
    expect(await over(first.revision)).toBe(11);
    expect(await refusal(over(first.revision))).toBe('changed');
    expect(await refusal(link.takeAway(on, addition, first))).toBe('changed');
    await link.takeAway(on, addition, second);
    expect(await refusal(link.takeAway(on, addition, second))).toBe('no-such-entry');
    await link.endAddition(on);
    const left = await entriesOf('other');
    expect(left.map(({ path }) => path)).toEqual([first.path]);
    expect((await read('other', left[0])).toString()).toBe('hello again');
    // As it was: other tests begin with an empty one.
    addition = await adding();
    await link.takeAway(on, addition, left[0] ?? first);
    await link.endAddition(on);
  });

  test('of a revision that cannot be understood nothing is given, written or taken away', async () => {
    device('other').plug(3);
    const on = named('other');
    const addition = await link.beginAddition(on, 'SERIAL-other');
    const note = newEntry('notes/1.md', 'hello');
    await link.add(on, addition, note, bytesOf('hello'));
    const asked = async (method: string, path: string, entry: object, body?: string) => {
      const address = `http://127.0.0.1:${bench.port}/link/v1/devices/other/${path}`;
      const headers = {
        authorization: 'Bearer a test token that is long',
        'if-match': 'unquoted',
        'link-entry': Buffer.from(JSON.stringify(entry)).toString('base64url'),
      };
      const answer = await fetch(address, { method, headers, ...(body ? { body } : {}) });
      return [answer.status, ((await answer.json()) as { error: string }).error];
    };
    const place = `additions/${addition}/entry`;
    expect(await asked('PUT', place, newEntry('notes/2.md', 'hello'), 'hello')).toEqual([
      404,
      'no-such-entry',
    ]);
    expect(await asked('PUT', place, note, 'hello')).toEqual([412, 'changed']);
    expect(await asked('DELETE', place, { path: note.path })).toEqual([412, 'changed']);
    await link.endAddition(on);
    const [first, ...more] = await entriesOf('other');
    expect(more).toEqual([]);
    if (!first) throw new Error('none');
    expect(await asked('GET', `entries/${first.id}/content`, {})).toEqual([412, 'changed']);
    expect((await read('other', first)).toString()).toBe('hello');
    // As it was: other tests begin with an empty one.
    const last = await link.beginAddition(on, 'SERIAL-other');
    await link.takeAway(on, last, first);
    await link.endAddition(on);
  });

  test('lie beside what is there, each whole, and nothing is written over', async () => {
    device('other').plug(3);
    const on = named('other');
    const addition = await link.beginAddition(on, 'SERIAL-other');
    const note = newEntry('notes/1.md', 'hello');
    expect(await link.add(on, addition, note, bytesOf('hello'))).toBe(5);
    expect(await refusal(link.add(on, addition, note, bytesOf('world')))).toBe('exists');
    const short = newEntry('notes/2.md', 'longer than it is');
    expect(await refusal(link.add(on, addition, short, bytesOf('cut')))).toBe('not-valid');
    const outside = newEntry('../evil.md', 'hello');
    expect(await refusal(link.add(on, addition, outside, bytesOf('hello')))).toBe('not-valid');
    expect(await refusal(link.beginAddition(on, 'SERIAL-other'))).toBe('busy');
    await link.endAddition(on);
    const [entry, ...more] = await entriesOf('other');
    expect(more).toEqual([]);
    expect((await read('other', entry)).toString()).toBe('hello');
    expect(await refusal(link.beginAddition(on, 'SERIAL-full'))).toBe('wrong-serial');
    expect(await refusal(link.beginAddition(named('full'), 'SERIAL-full'))).toBe('not-capable');
  });
});
