import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { BenchView } from '@bright-cellar/contract';
import { openShop } from './open-shop.js';
import { eventually, OWNED, PASSCODE } from './product.js';

const { product, api, db } = await openShop({
  only: [OWNED],
  owner: 'waits',
});

const TOKEN = 'a-token-that-only-this-adapter-has';
const home = mkdtempSync(join(tmpdir(), 'cellar-adapter-'));
const program = join(import.meta.dirname, '../packages/adapter/dist/program.js');
/** An adapter that the shop did not start itself. */
const adapter = fork(program, ['--port', '0'], {
  env: { ...process.env, CELLAR_LINK_TOKEN: TOKEN },
  silent: true,
});
const ended = once(adapter, 'exit');
let address = '';
beforeAll(async () => {
  const port = await new Promise<number>((resolve) =>
    adapter.on('message', (message: { port?: number }) => {
      if (message.port !== undefined) resolve(message.port);
    }),
  );
  address = `http://127.0.0.1:${port}`;
});
afterAll(async () => {
  adapter.kill();
  await ended;
  rmSync(home, { recursive: true, force: true });
});

const bench = async () => (await api.get<BenchView>('/api/bench')).body;
const named = async () =>
  (await api.get<{ named: string | null }>('/api/bench/adapter')).body.named;
const name = (site: { address: string; token: string }) =>
  api.send<{ berths: number; code?: string; what?: string }>('PUT', '/api/bench/adapter', site);
const isHere = async (serial: RegExp) =>
  (await bench()).berths.some(({ device }) => device !== null && serial.test(device.serial));
/** That the program’s own bench is the one that is asked, by a device that is on it. */
const isOwn = async () =>
  (await bench()).connected &&
  (await bench()).berths.some(({ device }) => device?.id === (OWNED as string));

test('what is no adapter, and one that does not let the token in, are not taken', async () => {
  expect((await name({ address, token: 'another-token-than-it-has' })).body).toMatchObject({
    ...{ code: 'adapter-not-taken', what: 'An adapter is there, and does not let this token in.' },
  });
  expect((await name({ address: product.address, token: TOKEN })).body).toMatchObject({
    ...{ code: 'adapter-not-taken', what: 'No adapter answers there.' },
  });
  const heard = { address: 'http://bench.example:4681', token: TOKEN };
  expect((await name(heard)).status).toBe(422);
  expect(await named()).toBeNull();
  expect(await isOwn()).toBe(true);
});

test('nothing is turned while a device is worked on', async () => {
  await product.press(OWNED, { do: 'unlock', passcode: PASSCODE });
  await product.press(OWNED, { do: 'approve', passcode: PASSCODE });
  const started = await api.startBackup(await api.openTicket(OWNED));
  expect(started.status).toBe(200);
  expect((await name({ address, token: TOKEN })).body.code).toBe('device-busy');
  await api.post(`/api/operations/${started.body.id}/stop`, {});
  await api.ended(started.body.id);
});

test('another adapter is asked by both processes, also after they start again; its token is read by nobody', async () => {
  expect((await name({ address, token: TOKEN })).body).toEqual({ berths: 4 });
  expect(await named()).toBe(address);
  await eventually('the bench of the other', async () => {
    const { connected, berths } = await bench();
    return connected && berths.every(({ device }) => device === null);
  });

  const card = join(home, 'CARD');
  mkdirSync(card);
  writeFileSync(join(card, 'letter.txt'), 'a letter');
  const { bench: rules } = (await api.get<{ bench: object }>('/api/settings')).body;
  await api.houseRules({ bench: { ...rules, places: [home] } as never });
  const connected = await eventually('storage on the bench', async () => {
    const { status, body } = await api.post<{ deviceId: string }>('/api/bench/storage', {
      ...{ folder: card, of: 'device', kind: 'tablet', name: 'Slate' },
      ...{ model: 'Slate 4', serial: 'SL4-0011-AA' },
    });
    return status === 200 ? body : null;
  });
  // Whoever works with devices asks it too.
  await api.provenBackup(connected.deviceId);

  process.kill(product.serverPid() ?? 0, 'SIGKILL');
  process.kill(product.workPid() ?? 0, 'SIGKILL');
  await eventually('the bench after a new start', () => isHere(/SL4-0011-AA/).catch(() => false));
  await api.provenBackup(connected.deviceId);

  const [kept] = await db.query('select * from named_adapter');
  expect(JSON.stringify(kept)).not.toContain(TOKEN);
  const [lines] = await db.query("select what from audit where action = 'settings-changed'");
  expect(lines).toContainEqual({ what: `Devices are reached at ${address} now.` });
  expect(JSON.stringify(lines)).not.toContain(TOKEN);
});

test('and the program’s own again', async () => {
  expect((await api.send('DELETE', '/api/bench/adapter')).status).toBe(200);
  await eventually('the program’s own bench', isOwn);
  expect(await named()).toBeNull();
});
