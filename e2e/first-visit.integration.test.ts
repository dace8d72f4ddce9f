import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { freePort } from '../scripts/lib/ports.mjs';
import { startProduct } from '../scripts/lib/product.mjs';
import { newSetUpCode } from '../scripts/lib/set-up-code.mjs';

const data = mkdtempSync(join(tmpdir(), 'cellar-shop-'));
let product: Awaited<ReturnType<typeof startProduct>>;
beforeAll(async () => {
  product = await startProduct({
    ...{ data, port: await freePort(), benchPort: await freePort() },
    ...{ demo: 'none', quiet: true, setUpCode: CODE },
  });
});
afterAll(async () => {
  await product.stop();
  rmSync(data, { recursive: true, force: true });
});

const CODE = newSetUpCode();
let keepersCookie = '';
const visit = {
  code: ` ${CODE.replace('-', ' ').toUpperCase()} `,
  shop: { name: 'Quayside Repairs', address: '2 Quay\nNetherby' },
  keeper: { name: 'Orla Wickbank', login: 'Orla', password: 'lantern moths ferry nine' },
};
const post = async (body: object) => {
  const response = await fetch(`${product.address}/api/set-up`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  const cookie = response.headers.get('set-cookie')?.split(';')[0] ?? '';
  return { status: response.status, cookie, body: (await response.json()) as { code?: string } };
};
const get = async (path: string, cookie = '') =>
  (await fetch(`${product.address}${path}`, { headers: { cookie } })).json() as Promise<unknown>;

test('a shop in which nobody is begins with the code that the start printed, once', async () => {
  expect(await get('/api/set-up')).toEqual({ needed: true });
  expect(await post({ ...visit, code: newSetUpCode() })).toMatchObject({
    status: 401,
    body: { code: 'sign-in-refused' },
  });
  const weak = { ...visit, keeper: { ...visit.keeper, password: '1234' } };
  expect((await post(weak)).body.code).toBe('weak-password');
  expect(await get('/api/set-up')).toEqual({ needed: true });

  // Two who press at once: one of them keeps the shop.
  const both = await Promise.all([
    post(visit),
    post({ ...visit, keeper: { ...visit.keeper, login: 'other' } }),
  ]);
  expect(both.map(({ status }) => status).sort()).toEqual([200, 401]);
  const first = both.find(({ status }) => status === 200);
  keepersCookie = first?.cookie ?? '';
  expect(await get('/api/set-up')).toEqual({ needed: false });
  expect((await post({ ...visit, keeper: { ...visit.keeper, login: 'late' } })).status).toBe(401);

  expect(await get('/api/session', first?.cookie)).toMatchObject({
    technician: { name: 'Orla Wickbank', role: 'keeper' },
    ...{ shopName: 'Quayside Repairs', trayAddress: null },
  });
  // It is on record, in their own name.
  const db = await mysql.createConnection(product.databaseSetupUrl);
  const [lines] = await db.query<mysql.RowDataPacket[]>(
    "select what from audit join technicians on technicians.id = technician_id where action = 'shop-begun'",
  );
  await db.end();
  expect(lines).toEqual([{ what: 'The shop was begun.' }]);
  // Nothing is made up: no rack, no ticket, no device.
  expect(await get('/api/racks', first?.cookie)).toEqual([]);
  expect(await get('/api/settings', first?.cookie)).toMatchObject({ shop: visit.shop });
  expect(await get('/api/bench', first?.cookie)).toMatchObject({
    berths: [{ device: null }, { device: null }, { device: null }, { device: null }],
  });
});

/** Runs a command of the product to its end. */
const command = (script: string, ...args: string[]) =>
  spawnSync(process.execPath, [`scripts/${script}.mjs`, ...args], {
    cwd: join(import.meta.dirname, '..'),
    encoding: 'utf8',
  });
const check = (...args: string[]) => command('audit-check', ...args);
const doctor = (...args: string[]) => command('doctor', '--data', data, ...args);
let seal = '';

test('the record is checked by a command while the product runs, and a file of it by itself', async () => {
  const running = check('--data', data);
  expect(running.stdout).toMatch(
    /^\d+ entries follow each other; the last has the seal [\da-f]{64}/,
  );
  expect(running.status).toBe(0);
  seal = /seal ([\da-f]{64})/.exec(running.stdout)?.[1] ?? '';

  const taken = await fetch(`${product.address}/api/audit/export?format=jsonl`, {
    headers: { cookie: keepersCookie },
  });
  const lines = await taken.text();
  const file = join(data, 'record.jsonl');
  writeFileSync(file, lines);
  const ofFile = check('--file', file, '--head', seal.slice(0, 20));
  expect(ofFile.stdout).toContain('The seal that was printed is that of entry');
  expect(ofFile.status).toBe(0);
  writeFileSync(file, lines.replace('The shop was begun.', 'The shop was begum.'));
  const changed = check('--file', file);
  expect(changed.stdout).toMatch(/Entry \d+, of .*, does not follow/);
  expect(changed.status).toBe(1);

  writeFileSync(file, '{}');
  expect(check('--file', file).stderr).toBe('Line 1 is no entry of a record.\n');
});

test('how the shop is, is said from outside: what is wrong, with what to do; also when it stopped', async () => {
  const port = new URL(product.address).port;
  // As `npm start` leaves it while it runs.
  const lock = join(data, 'run/start.pid');
  writeFileSync(lock, String(process.pid));
  const looked = doctor('--port', port);
  expect(looked.stdout).toMatch(/^WRONG {2}Saved catalogue: .*\n {7}Make the recovery key/m);
  expect(looked.stdout).toMatch(/^WRONG {2}Racks: There is no rack/m);
  expect(looked.stdout).toMatch(/^well {3}Database: MariaDB \d+/m);
  expect(looked.stdout).not.toMatch(/Program/);
  expect(looked.status).toBe(1);
  expect(doctor('--port', '1').stdout).toContain('It runs, and does not answer');

  await product.stop();
  rmSync(lock);
  expect(doctor().stdout).toContain('look   Program: It does not run.');
  const stopped = check('--data', data, '--head', seal);
  expect(stopped.stdout).toContain('The seal that was printed is that of entry');
  expect(stopped.status).toBe(0);
  expect(check('--data', data, '--head', 'f'.repeat(20)).status).toBe(1);
  expect(check('--data', join(data, 'nothing')).stderr).toContain('There is no installation in');
});
