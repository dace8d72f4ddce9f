import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { DeviceFacts } from '@bright-cellar/core';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { startBench, type BenchOptions, type RunningBench } from './bench.js';
import { Cable, Dropped, NO_FAULTS, type Faults } from './cable.js';
import { demoDevices } from './demo-devices.js';
import { Drives } from './drives.js';

let home: string;
let bench: RunningBench;

const options = (): BenchOptions => ({
  port: 0,
  token: 'a test token that is long',
  folder: join(home, 'bench'),
  berths: 2,
  timing: { installMs: 30, eraseMs: 20, downloadMs: 20, ownerConfirms: true },
  devices: demoDevices(join(home, 'bench/devices')),
  drives: new Drives(join(home, 'drives'), join(home, 'drawer')),
});

beforeEach(async () => {
  home = await mkdtemp(join(tmpdir(), 'cellar-control-'));
  const notes = join(home, 'bench/devices/vireo-arc-7/contents/notes');
  await mkdir(notes, { recursive: true });
  await writeFile(join(notes, 'a.md'), 'alpha');
  bench = await startBench(options());
});
afterEach(async () => {
  await bench.stop();
  await rm(home, { recursive: true, force: true });
});

interface TrayView {
  facts: DeviceFacts;
  berth: number | null;
  error?: string;
}

/** Puts a folder on the bench. */
const putOn = (device: { folder: string; berth?: number }) => press('', device);

async function press(id: string, action: object, headers: Record<string, string> = {}) {
  const response = await fetch(`http://127.0.0.1:${bench.port}/control/v1/devices/${id}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body: JSON.stringify(action),
  });
  return { status: response.status, body: (await response.json()) as TrayView };
}

describe('the tray', () => {
  test('opens a locked phone with its passcode, and not with another', async () => {
    expect((await press('vireo-arc-7', { do: 'unlock', passcode: '0000' })).status).toBe(409);
    expect((await press('vireo-arc-7', { do: 'approve', passcode: '402917' })).status).toBe(409);
    const unlocked = await press('vireo-arc-7', { do: 'unlock', passcode: '402917' });
    expect(unlocked.body.facts).toMatchObject({
      lock: 'unlocked',
      approval: 'asking',
      content: null,
    });
    const open = await press('vireo-arc-7', { do: 'approve', passcode: '402917' });
    expect(open.body.facts).toMatchObject({
      approval: 'approved',
      content: [{ class: 'notes', items: 1, bytes: 5 }],
    });
  });

  test('a berth holds one device, and a device hangs on one berth', async () => {
    expect((await press('vireo-arc-8', { do: 'plug', berth: 1 })).body.error).toBe('busy');
    expect((await press('vireo-arc-8', { do: 'plug', berth: 9 })).body.error).toBe('busy');
    expect((await press('vireo-arc-8', { do: 'plug' })).body.berth).toBe(2);
    expect((await press('vireo-arc-8', { do: 'plug' })).body.error).toBe('busy');
    expect((await press('vireo-arc-8', { do: 'pull-cable' })).body.berth).toBeNull();
  });

  test('a pulled phone is locked again, and still knows this bench', async () => {
    await press('vireo-arc-7', { do: 'unlock', passcode: '402917' });
    await press('vireo-arc-7', { do: 'approve', passcode: '402917' });
    await press('vireo-arc-7', { do: 'pull-cable' });
    const { body } = await press('vireo-arc-7', { do: 'plug', berth: 2 });
    expect(body.facts).toMatchObject({ lock: 'locked', approval: 'approved', berth: 2 });
  });

  test('using the phone changes its revision', async () => {
    await press('vireo-arc-7', { do: 'unlock', passcode: '402917' });
    const before = (await press('vireo-arc-7', { do: 'approve', passcode: '402917' })).body.facts;
    const after = (await press('vireo-arc-7', { do: 'write-note', text: 'new' })).body.facts;
    expect(after.contentRevision).not.toBe(before.contentRevision);
    expect(after.content?.[0]?.items).toBe(2);
  });

  test.each([
    [{ do: 'charge', percent: 101 }],
    [{ do: 'charge' }],
    [{ do: 'dance' }],
    [{ do: 'faults', faults: { rate: -1 } }],
    [{}],
  ])('%j is no action', async (action) => {
    expect(await press('vireo-arc-7', action)).toMatchObject({
      status: 409,
      body: { error: 'not-valid' },
    });
  });

  test('another page in somebody’s browser may press nothing', async () => {
    const elsewhere = await press(
      'vireo-arc-7',
      { do: 'erase' },
      { origin: 'http://evil.example.com' },
    );
    expect(elsewhere.status).toBe(403);
    expect(bench.devices.get('vireo-arc-7')?.facts().empty).toBe(false);
  });

  test('its own page and its parts are served', async () => {
    for (const [path, type] of [
      ['/', 'text/html'],
      ['/tray.js', 'javascript'],
      ['/tray.css', 'text/css'],
    ] as const) {
      const response = await fetch(`http://127.0.0.1:${bench.port}${path}`);
      expect([response.status, response.headers.get('content-type')]).toEqual([
        200,
        expect.stringContaining(type),
      ]);
    }
  });
});

describe('the state of the bench', () => {
  test('outlives a restart: who is where, what is erased, what is charged', async () => {
    await press('vireo-arc-7', { do: 'erase' });
    await press('vireo-arc-8', { do: 'plug', berth: 2 });
    await press('vireo-arc-8', { do: 'charge', percent: 99 });
    await bench.stop();
    bench = await startBench(options());
    expect(bench.devices.get('vireo-arc-7')?.facts()).toMatchObject({
      empty: true,
      lock: 'no-passcode',
    });
    expect(bench.devices.get('vireo-arc-8')?.facts()).toMatchObject({ berth: 2, charge: 99 });
  });

  test('a device that was taking a backup in when the bench ended takes it in, and comes back to its berth', async () => {
    await press('vireo-arc-8', { do: 'plug', berth: 2 });
    await bench.stop();
    const file = join(home, 'bench/devices.json');
    const kept = JSON.parse(await readFile(file, 'utf8')) as {
      definition: { id: string };
      condition: object;
    }[];
    const away = kept.map((one) =>
      one.definition.id === 'vireo-arc-8'
        ? { ...one, condition: { ...one.condition, berth: null, returnsTo: 2 } }
        : one,
    );
    await writeFile(file, JSON.stringify(away));
    const incoming = join(home, 'bench/devices/vireo-arc-8/contents.incoming/notes');
    await mkdir(incoming, { recursive: true });
    await writeFile(join(incoming, 'a.md'), 'It was on its way.');
    bench = await startBench(options());
    const facts = () => bench.devices.get('vireo-arc-8')?.facts();
    await expect.poll(() => facts()?.berth).toBe(2);
    expect(facts()).toMatchObject({ empty: false, activity: 'idle' });
  });

  test('a folder of somebody’s own is shown, erased from view, and never touched', async () => {
    const own = join(home, 'own');
    await mkdir(own);
    await writeFile(join(own, 'letter.txt'), 'hello');
    const { facts } = (await putOn({ folder: own })).body;
    expect(facts).toMatchObject({ empty: false, content: [{ class: 'documents', items: 1 }] });
    expect((await press(facts.id, { do: 'write-note', text: 'x' })).body.error).toBe('not-capable');
    expect((await press(facts.id, { do: 'erase' })).body.facts.empty).toBe(true);
    expect(await readdir(own)).toEqual(['letter.txt']);
  });

  test('a folder goes onto a cable that there is and that is free, or onto none', async () => {
    const own = join(home, 'own');
    for (const berth of [1, 3])
      expect((await putOn({ folder: own, berth })).body.error, `${berth}`).toBe('busy');
    expect((await putOn({ folder: own, berth: 2 })).body.berth).toBe(2);
  });
});

describe('a cable', () => {
  async function* pieces(...sizes: number[]) {
    for (const size of sizes) yield new Uint8Array(size);
  }
  async function carried(faults: Partial<Faults>, ...sizes: number[]) {
    let cuts = 0;
    let passed = 0;
    const cable = new Cable(
      { ...NO_FAULTS, ...faults },
      1,
      () => (cuts += 1),
      () => undefined,
    );
    for await (const piece of cable.carry(pieces(...sizes))) passed += piece.length;
    return { passed, cuts, left: cable.faults.cutAfterBytes };
  }

  test('carries everything when nothing is wrong', async () => {
    expect(await carried({}, 10, 0, 5)).toEqual({ passed: 15, cuts: 0, left: null });
  });

  test('is cut once, after so many bytes, and is whole again when it is plugged in', async () => {
    expect(await carried({ cutAfterBytes: 12 }, 10, 10, 10)).toEqual({
      passed: 10,
      cuts: 1,
      left: null,
    });
    expect(await carried({ cutAfterBytes: 100 }, 10, 10)).toEqual({
      passed: 20,
      cuts: 0,
      left: 80,
    });
  });

  test('drops its connection now and then over the shop network, and never on a cable', async () => {
    const over = (connection: 'cable' | 'network') => {
      const cable = new Cable(
        { ...NO_FAULTS, dropEveryBytes: 25 },
        1,
        () => undefined,
        () => undefined,
      );
      cable.connection = connection;
      return (async () => {
        for await (const _ of cable.carry(pieces(10, 10, 10)));
      })();
    };
    await expect(over('cable')).resolves.toBeUndefined();
    await expect(over('network')).rejects.toBeInstanceOf(Dropped);
  });

  test('a device that falls asleep says so once, and breaks off', async () => {
    let slept = 0;
    const cable = new Cable(
      { ...NO_FAULTS, sleepAfterBytes: 15 },
      1,
      () => undefined,
      () => undefined,
    );
    cable.onSleep = () => (slept += 1);
    const carry = async () => {
      for await (const _ of cable.carry(pieces(10, 10)));
    };
    await expect(carry()).rejects.toBeInstanceOf(Dropped);
    await carry();
    expect(slept).toBe(1);
  });

  test('keeps its rate over many small pieces', async () => {
    const began = performance.now();
    await carried({ rate: 100_000 }, ...Array.from({ length: 100 }, () => 300));
    expect(performance.now() - began).toBeGreaterThan(200);
  });
});

test('a drive is plugged in and pulled, with all that lies on it', async () => {
  await mkdir(join(home, 'drawer/cedar/archive'), { recursive: true });
  const turn = async (name: string, action: string) => {
    const response = await fetch(`http://127.0.0.1:${bench.port}/control/v1/drives/${name}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ do: action }),
    });
    return response.status;
  };
  expect(await turn('cedar', 'pull')).toBe(409);
  expect(await turn('cedar', 'plug')).toBe(200);
  expect(await readdir(join(home, 'drives/cedar'))).toEqual(['archive']);
  expect(await turn('cedar', 'pull')).toBe(200);
  expect(await readdir(join(home, 'drawer'))).toEqual(['cedar']);
  for (const name of ['none', '..', encodeURIComponent('../drawer/cedar')]) {
    expect(await turn(name, 'plug')).not.toBe(200);
  }
});
