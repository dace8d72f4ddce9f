import { execFile, spawn } from 'node:child_process';
import {
  chownSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { startProduct } from '../scripts/lib/product.mjs';
import { freePort, isFree } from '../scripts/lib/ports.mjs';
import { isAlive } from '../scripts/lib/processes.mjs';
import { Api } from './api.js';
import { eventually, startTestProduct, type Product } from './product.js';

const SCRIPTS = fileURLToPath(new URL('../scripts/', import.meta.url));

/** Types a command. @returns its exit code and everything it printed */
function type(script: string, ...args: string[]): Promise<{ code: number; printed: string }> {
  return new Promise((resolve) => {
    execFile(process.execPath, [join(SCRIPTS, script), ...args], (error, stdout, stderr) => {
      resolve({
        code: typeof error?.code === 'number' ? error.code : 0,
        printed: (stdout + stderr).trim(),
      });
    });
  });
}

/** Whether any user may read it: each folder above it too. */
const isForAll = (path: string): boolean =>
  (statSync(path).mode & 0o5) === 0o5 && (path === '/' || isForAll(dirname(path)));

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'cellar-commands-'));
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

test.each([
  [['--nonsense'], 'Usage: npm run demo -- [--port N] [--data DIR] [--fresh]'],
  [['--port', 'abc'], '--port takes a number from 1 to 65531, not “abc”.'],
  [['--port', '70000'], '--port takes a number from 1 to 65531, not “70000”.'],
])('the demo says in one sentence what is wrong with %s', async (args, sentence) => {
  expect(await type('demo.mjs', ...args)).toEqual({ code: 1, printed: sentence });
});

test('the demo does not start twice on one data folder', async () => {
  mkdirSync(join(folder, 'run'));
  writeFileSync(join(folder, 'run/start.pid'), String(process.pid));
  const { code, printed } = await type('demo.mjs', '--data', folder);
  expect(code).toBe(1);
  expect(printed).toMatch(
    /^Bright Cellar is running on .* already \(process \d+\)\. Stop it, or .*--data DIR\.$/,
  );
});

test('a port in use is said in one sentence, and nothing is left running', async () => {
  const other = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => other.once('listening', resolve));
  const { port } = other.address() as AddressInfo;
  const data = join(folder, 'port');
  await expect(
    startProduct({ data, port, benchPort: await freePort(), demo: 'small', quiet: true }),
  ).rejects.toThrow(`Port ${port} is in use.`);
  other.close();
});

test('a shop that somebody new on this computer starts says the code of its first visit, and leaves nothing running', async () => {
  // Nothing of anybody else's is there, nor needed: where root tests, somebody who may do nothing starts it.
  const home = mkdtempSync('/tmp/cellar-home-');
  const data = join(home, '.bright-cellar');
  const user = process.getuid?.() === 0 && isForAll(SCRIPTS) ? { uid: 65_534, gid: 65_534 } : {};
  if (user.uid !== undefined) chownSync(home, user.uid, user.gid);
  let port = await freePort();
  // The bench answers on the one after it.
  while (!(await isFree(port + 1))) port = await freePort();
  const args = [join(SCRIPTS, 'start.mjs'), '--built', '--port', String(port)];
  const env = { HOME: home, PATH: process.env.PATH };
  const child = spawn(process.execPath, args, { ...user, env });
  let printed = '';
  for (const stream of [child.stdout, child.stderr]) {
    stream.on('data', (piece: Buffer) => (printed += piece.toString('utf8')));
  }
  const ended = new Promise((resolve) => child.once('exit', resolve));
  const code = await eventually(
    'the code',
    () => Promise.resolve(/this code: ([a-z0-9]{4}(?:-[a-z0-9]{4}){2})\n/.exec(printed)?.[1]),
    120_000,
  );
  const { pid } = JSON.parse(readFileSync(join(data, 'database/running.json'), 'utf8')) as {
    pid: number;
  };
  expect(isAlive(pid)).toBe(true);
  for (const name of readdirSync(join(data, 'logs'))) {
    expect(readFileSync(join(data, 'logs', name), 'utf8'), name).not.toContain(code);
  }
  // Nobody else on this computer has anything of its bench, and nothing on it is made up.
  const bench = `http://127.0.0.1:${port + 1}`;
  expect((await fetch(`${bench}/link/v1/events`)).status).toBe(401);
  for (const path of ['/', '/control/v1/devices'])
    expect((await fetch(bench + path)).status).toBe(404);
  child.kill('SIGTERM');
  expect(await ended).toBe(0);
  expect(isAlive(pid)).toBe(false);
  rmSync(home, { recursive: true });
});

test('the bench command says what it needs, and that nobody answers', async () => {
  expect((await type('bench.mjs')).printed).toMatch(/^Usage: npm run bench -- --folder DIR/);
  const nobody = `http://127.0.0.1:${await freePort()}`;
  const { code, printed } = await type('bench.mjs', '--folder', folder, '--bench', nobody);
  expect([code, printed]).toEqual([
    1,
    `No stand-in bench answers at ${nobody}. Start the product first: npm run demo`,
  ]);
});

test('a folder put on the bench is there for everybody; a second start keeps what was done', async () => {
  const product: Product = await startTestProduct();
  try {
    const contents = join(folder, 'contents');
    mkdirSync(contents);
    writeFileSync(join(contents, 'letter.txt'), 'hello');
    const put = await type(
      'bench.mjs',
      '--folder',
      contents,
      '--name',
      'A real tree',
      '--bench',
      product.benchAddress,
    );
    expect(put).toEqual({
      code: 0,
      printed: expect.stringMatching(
        /is on berth 2 as “A real tree”, serial VXFOLDER\d+, with contents\.$/,
      ) as string,
    });
    const api = await Api.signedIn(product);
    const { body: bench } = await api.get<{ berths: { device: { id: string } | null }[] }>(
      '/api/bench',
    );
    const { ticket } = await api.provenBackup(bench.berths[1]?.device?.id ?? '');

    await product.halt();
    const again = await product.startAgain();
    try {
      const later = await Api.signedIn(again);
      expect(
        (await later.get<{ archiveIds: string[] }>(`/api/tickets/${ticket}`)).body.archiveIds,
      ).toHaveLength(1);
      const devices = (
        await later.get<{ berths: { device: { name: string } | null }[] }>('/api/bench')
      ).body;
      expect(devices.berths[1]?.device?.name).toBe('A real tree');
    } finally {
      await again.halt();
    }
  } finally {
    product.discard();
  }
});
