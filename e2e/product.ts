import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import mysql from 'mysql2/promise';
import { startDatabase } from '../scripts/lib/database.mjs';
import { freePort } from '../scripts/lib/ports.mjs';
import { startProduct } from '../scripts/lib/product.mjs';
import { digestOfBuild, fill, type DatabaseAddresses } from './loaded.js';

/** The whole product on a data folder of its own, with small stand-in devices: what every test here runs against. */
export interface Product extends Awaited<ReturnType<typeof startProduct>> {
  data: string;
  discard: () => void;
  halt: () => Promise<void>;
  startAgain: () => Promise<Product>;
  /** Copies what its processes wrote to where it stays, for whoever wants to know why a test failed. */
  keepLogs: (test: string) => void;
  press: (device: string, action: object) => Promise<unknown>;
  plugFolder: (
    folder: string,
    berth: number,
    capacity?: number,
  ) => Promise<{ facts: { id: string; serial: string } }>;
}

export interface TestOptions {
  demo?: 'full' | 'small';
  rate?: number;
  installMs?: number;
  /** Which of the demo's stand-ins there are; the customer's Vireo phone and its replacement where not said. */
  only?: string[];
  /** What the devices ask when work starts is answered at once, unless a test wants to answer it. */
  owner?: 'waits' | 'confirms';
  /** A MariaDB of its own, which can be killed. */
  ownServer?: boolean;
  /** How long a backup waits for a device that left; not at all where not said. */
  waitForDeviceMs?: number;
  /** After how much silence a look-in closes itself; five minutes where not said. */
  lookInIdleMs?: number;
  /** Says by how many milliseconds its clock is off, whenever that changes. */
  clockFile?: string;
  /** Keys take as little work as tests like (scripts/lib/light-work.mjs), unless told otherwise. */
  lightPasswords?: boolean;
}

/** Where the stand-ins' contents stay for all tests of this build: the bench of another one may make others. */
const contentsLibrary = () =>
  join(tmpdir(), `cellar-contents-${digestOfBuild('bench/dist/program')}`);

let server: ReturnType<typeof startDatabaseServer> | undefined;

const KEPT_LOGS = fileURLToPath(new URL('../test-results/logs', import.meta.url));

const LAST_LINES = 12;

/** Preloaded, keys take little work. */
export const LIGHT_WORK = '../scripts/lib/light-work.mjs';

/** One MariaDB for all tests of this process: making its data folder takes longer than most tests. */
async function startDatabaseServer() {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-database-'));
  const started = await startDatabase(folder);
  process.once('exit', () => {
    started.kill();
    rmSync(folder, { recursive: true, force: true });
  });
  // A test runner ends its processes so, and without this nothing above would happen.
  process.once('SIGTERM', () => process.exit(143));
  return started;
}

/** A new, empty database for one product. */
async function ownDatabase(): Promise<DatabaseAddresses> {
  const { setupUrl, urlOf, setupUrlOf } = await (server ??= startDatabaseServer());
  const name = randomBytes(6).toString('hex');
  const connection = await mysql.createConnection(setupUrl);
  await connection.query(`CREATE DATABASE ${new URL(urlOf(name)).pathname.slice(1)}`);
  await connection.end();
  return { url: urlOf(name), setupUrl: setupUrlOf(name) };
}

export async function startTestProduct(options: TestOptions = {}): Promise<Product> {
  const data = mkdtempSync(join(tmpdir(), 'cellar-test-'));
  try {
    if (options.ownServer) return await startOn(data, null, options);
    const database = await ownDatabase();
    const isFilled = options.demo !== 'full';
    if (isFilled) await fill(data, database, ownDatabase);
    return await startOn(data, database, options, isFilled);
  } catch (error) {
    keepLogs(data, `start of ${basename(data)}`);
    rmSync(data, { recursive: true, force: true });
    throw error;
  }
}

/** See {@link Product.keepLogs}. */
function keepLogs(data: string, test: string): void {
  const logs = join(data, 'logs');
  // What failed may have been before any process.
  if (!existsSync(logs)) return;
  const kept = join(KEPT_LOGS, test.replaceAll(/[^\p{L}\p{N}]+/gu, '-').slice(0, 80));
  cpSync(logs, kept, { recursive: true });
  process.stderr.write(`“${test}” failed; the product’s logs are in ${kept}, and end so:\n`);
  for (const name of readdirSync(kept)) {
    const lines = readFileSync(join(kept, name), 'utf8').trimEnd().split('\n');
    process.stderr.write(`${name}\n${lines.slice(-LAST_LINES).join('\n')}\n`);
  }
}

async function startOn(
  data: string,
  addresses: DatabaseAddresses | null,
  options: TestOptions,
  isFilled = false,
): Promise<Product> {
  const product = await startProduct({
    isFilled,
    ...(addresses ? { database: { ...addresses, pid: () => 0, stop: async () => undefined } } : {}),
    data,
    port: await freePort(),
    benchPort: await freePort(),
    demo: options.demo ?? 'small',
    installMs: options.installMs ?? 600,
    quiet: true,
    ...(options.demo === 'full' ? {} : { only: options.only ?? [OWNED, WIPED] }),
    owner: options.owner ?? 'confirms',
    library: contentsLibrary(),
    waitForDeviceMs: options.waitForDeviceMs ?? 0,
    ...(options.rate ? { rate: options.rate } : {}),
    // What nobody asked for would begin in the middle of any test, by the clock.
    env: {
      CELLAR_CARE: 'when-asked',
      ...(options.lookInIdleMs === undefined
        ? {}
        : { CELLAR_LOOK_IN_IDLE_MS: String(options.lookInIdleMs) }),
      ...preloadsOf(options),
    },
  });
  const discard = () => rmSync(data, { recursive: true, force: true });
  return {
    ...product,
    data,
    discard,
    /** Stops it and keeps its data, for another start. */
    halt: product.stop,
    startAgain: (): Promise<Product> => startOn(data, addresses, options),
    keepLogs: (test) => keepLogs(data, test),
    async stop() {
      await product.stop();
      const log = readFileSync(join(data, 'logs/server.log'), 'utf8');
      discard();
      const silent = log.split('\n').filter((line) => line.includes('nothing was left on record'));
      if (silent.length > 0)
        throw new Error(`What it should, a route did not leave:\n${silent.join('\n')}`);
    },
    /** Presses something on a stand-in device or its cable. */
    press: (device: string, action: object) => control(product.benchAddress, `/${device}`, action),
    /** Puts a folder on the bench as a device. */
    plugFolder: async (folder: string, berth: number, capacity?: number) =>
      (await control(product.benchAddress, '', { folder, berth, capacity })) as {
        facts: { id: string; serial: string };
      },
  };
}

/** What is loaded into every process of the product before its own code. */
function preloadsOf({ clockFile, lightPasswords = true }: TestOptions): Record<string, string> {
  const preloads = [
    ...(clockFile ? ['./faults/clock.mjs'] : []),
    ...(lightPasswords ? [LIGHT_WORK] : []),
  ].map((name) => `--import ${new URL(name, import.meta.url).href}`);
  return {
    ...(preloads.length > 0 ? { NODE_OPTIONS: preloads.join(' ') } : {}),
    ...(clockFile ? { FAULT_CLOCK_FILE: clockFile } : {}),
  };
}

async function control(bench: string, path: string, body: object): Promise<unknown> {
  const response = await fetch(`${bench}/control/v1/devices${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!response.ok) throw new Error(`the bench refused: ${await response.text()}`);
  return response.json();
}

export const OWNED = 'vireo-arc-7';
export const WIPED = 'vireo-arc-8';
/** A phone of the family that opens its workshop port, and an old handset. */
export const MARL = 'marl-fell-3';
export const QUILLON = 'quillon-q40';
export const PASSCODE = '402917';
export const PASSWORD = 'brass kettle seven moths';
export const SIGN_IN = { login: 'wren', password: 'lantern-steps-four' };
/** A technician who works beside the keeper. */
export const JOSS = { login: 'joss', password: 'lantern-steps-five' };

/** Opens the customer's phone: unlocked, and this bench approved. */
export async function openOwned(product: Product): Promise<void> {
  await product.press(OWNED, { do: 'unlock', passcode: PASSCODE });
  await product.press(OWNED, { do: 'approve', passcode: PASSCODE });
}

/** Opens a phone that has a workshop port: unlocked, its port on, this bench approved. */
export async function openMarl(product: Pick<Product, 'press'>): Promise<void> {
  const passcode = '7351';
  await product.press(MARL, { do: 'unlock', passcode });
  await product.press(MARL, { do: 'workshop-port', state: 'on' });
  await product.press(MARL, { do: 'approve', passcode });
}

/** Asked soon, then less often: to answer takes the machine that everything else runs on. */
const ASKED_MS = { first: 60, most: 500, grows: 1.5 };

/**
 * Waits until something holds.
 * @param moves what is told meanwhile of how far it is: as long as that changes it is waited for, however slow the machine is
 * @throws Error after a minute in which nothing moved, or when told
 */
export async function eventually<T>(
  what: string,
  look: () => Promise<T | null | undefined | false>,
  atMostMs = 60_000,
  moves: () => string = () => '',
): Promise<T> {
  let until = Date.now() + atMostMs;
  let before = '';
  for (let ms = ASKED_MS.first; ; ms = Math.min(ms * ASKED_MS.grows, ASKED_MS.most)) {
    const seen = await look();
    if (seen) return seen;
    const now = moves();
    if (now !== before) until = Date.now() + atMostMs;
    before = now;
    if (Date.now() > until) throw new Error(`it never came: ${what}`);
    await sleep(ms);
  }
}
