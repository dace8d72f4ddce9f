// @ts-check
import { createHash } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { keptSecret, startDatabase } from './database.mjs';
import { isFree } from './ports.mjs';
import { Keeper } from './processes.mjs';
import { runBeside, ROOT } from './setup.mjs';
import { say, Sentence } from './say.mjs';

const NEEDED_BYTES = 1_500_000_000;

/**
 * Starts everything on one data folder: database, bench, work process, server.
 * @param {{
 *   data: string, port: number, benchPort: number, demo: 'full' | 'small' | 'none',
 *   rate?: number, installMs?: number, quiet?: boolean,
 *   tlsPort?: number, deskPort?: number,
 *   owner?: 'waits' | 'confirms', only?: string[], waitForDeviceMs?: number, library?: string,
 *   env?: Record<string, string>, storagePort?: number, setUpCode?: string,
 *   database?: { url: string, setupUrl: string, pid: () => number, stop: () => Promise<void> }, isFilled?: boolean,
 * }} options `database`: one that runs already, instead of one in the data folder; `isFilled`: it is up to date, and the demo’s shop is in it; `library`: where contents of stand-in devices stay for the next
 *   start, wherever its data is; `env`: for every process; `tlsPort`, `deskPort`: where
 *   other computers and customers’ own phones are listened to, any that is free where not said; `storagePort`: where a
 *   stand-in for rented storage answers, none where not said; `setUpCode`: what the first visit asks for, where nothing is made up
 */
export async function startProduct({
  data,
  port,
  benchPort,
  demo,
  rate,
  installMs = 6000,
  quiet = false,
  owner = 'waits',
  only,
  library,
  waitForDeviceMs,
  env: more = {},
  database: given,
  isFilled = false,
  storagePort,
  tlsPort = 0,
  deskPort = 0,
  setUpCode,
}) {
  // Nobody else on this machine has business in any of these.
  const madeUp = demo === 'none' ? [] : ['racks', 'drives', 'drawer'];
  for (const folder of ['', 'run', 'logs', 'bench', ...madeUp]) {
    const path = join(data, folder);
    mkdirSync(path, { recursive: true });
    // Also one that was there already.
    chmodSync(path, 0o700);
  }
  const { bavail, bsize } = statfsSync(data);
  if (demo === 'full' && bavail * bsize < NEEDED_BYTES) {
    throw new Sentence(
      `Only ${Math.round((bavail * bsize) / 1e6)} MB are free at ${data}; the demo needs ${NEEDED_BYTES / 1e6} MB. Make room or choose another folder with --data DIR.`,
    );
  }
  for (const wanted of [port, benchPort, storagePort, tlsPort, deskPort]) {
    if (!wanted) continue;
    if (!(await isFree(wanted))) {
      throw new Sentence(
        `Port ${wanted} is in use. Stop what uses it, or choose another with --port N.`,
      );
    }
  }
  const progress = quiet ? () => undefined : say;
  if (!given) progress('Starting MariaDB');
  const database = given ?? (await startDatabase(join(data, 'database')));
  /** @type {Keeper[]} */
  const started = [];
  const stop = async () => {
    for (const keeper of started.reverse()) await keeper.stop();
    await database.stop();
  };
  try {
    const token = keptSecret(join(data, 'run/link-token'));
    /** @param {string} name @param {string} script @param {Record<string, string>} env @param {string[]} [args] */
    const keep = async (name, script, env, args = []) => {
      const log = join(data, 'logs', `${name}.log`);
      const keeper = new Keeper({
        ...{ name, script: join(ROOT, 'packages', script), args, log },
        env: { ...env, ...more },
      });
      started.push(keeper);
      return keeper.start();
    };
    const isShop = demo === 'none';
    // What hangs on the bench of the demo is made up; a shop has its own.
    const bench = isShop ? 'adapter/dist/program.js' : 'bench/dist/program.js';
    const args = [];
    if (!isShop) {
      args.push('--data', join(data, 'bench'), '--demo', demo, '--install-ms', String(installMs));
      args.push('--owner', owner);
      args.push('--drives', join(data, 'drives'), '--drawer', join(data, 'drawer'));
      if (only) args.push('--only', only.join(','));
      if (library) args.push('--library', library);
      if (rate) args.push('--rate', String(rate));
    }
    if (demo === 'full' && !existsSync(join(data, 'bench/devices.json')))
      progress('Making the stand-in devices’ contents (a minute, the first time only)');
    args.push('--port', String(benchPort));
    const benchAddress = `http://127.0.0.1:${benchPort}`;
    const env = {
      CELLAR_DATABASE_URL: database.url,
      CELLAR_LINK_ADDRESS: benchAddress,
      CELLAR_LINK_TOKEN: token,
      CELLAR_DATA: data,
      CELLAR_WORK_SOCKET: workSocket(data),
      CELLAR_PORT: String(port),
      CELLAR_TLS_PORT: String(tlsPort),
      CELLAR_DESK_PORT: String(deskPort),
      ...(isShop ? {} : { CELLAR_TRAY_ADDRESS: benchAddress }),
      ...(waitForDeviceMs === undefined
        ? {}
        : { CELLAR_WAIT_FOR_DEVICE_MS: String(waitForDeviceMs) }),
    };
    const load =
      demo === 'none'
        ? [join(ROOT, 'packages/server/dist/run/prepare.js')]
        : [join(ROOT, 'packages/server/dist/run/load.js'), '--data', data];
    // Hundreds of made-up archives, none of which anybody wants to keep from anybody.
    if (demo === 'full') {
      load.unshift('--import', join(ROOT, 'scripts/lib/light-work.mjs'));
      load.push('--past');
    }
    // Neither needs the other.
    await allOf([
      keep('bench', bench, { CELLAR_LINK_TOKEN: token }, args),
      isFilled
        ? undefined
        : runBeside(process.execPath, load, {
            ...env,
            CELLAR_DATABASE_SETUP_URL: database.setupUrl,
          }),
    ]);
    const [, server] = await allOf([
      keep('work', 'server/dist/run/work.js', env),
      keep('server', 'server/dist/run/main.js', {
        ...env,
        ...(setUpCode ? { CELLAR_SET_UP_CODE: setUpCode } : {}),
      }),
    ]);
    const [, work, serverKeeper] = started;
    const storage = ['--data', join(data, 'storage'), '--port', String(storagePort)];
    if (storagePort) await keep('storage', 'rack-stand-ins/dist/main.js', {}, storage);
    return {
      address: `http://127.0.0.1:${server.port}`,
      deskAddress: `http://127.0.0.1:${server.deskPort}`,
      benchAddress,
      benchToken: token,
      databaseUrl: database.url,
      databaseSetupUrl: database.setupUrl,
      databasePid: () => database.pid(),
      benchPid: () => started[0]?.pid ?? null,
      serverPid: () => serverKeeper?.pid ?? null,
      workPid: () => work?.pid ?? null,
      stop,
    };
  } catch (error) {
    await stop();
    throw error;
  }
}

/**
 * What each of them gives, once all are over: when one fails, none goes on behind whoever clears up.
 * @template T, U
 * @param {[T | Promise<T>, U | Promise<U>]} all
 * @returns {Promise<[T, U]>}
 */
async function allOf(all) {
  await Promise.allSettled(all);
  return Promise.all(all);
}

/** The work process listens on a socket in the data folder, or, where that path is too long for a socket, in the temporary folder. @param {string} data */
function workSocket(data) {
  const inside = join(data, 'run/work.sock');
  if (inside.length < 100) return inside;
  const name = createHash('sha256').update(data).digest('hex').slice(0, 16);
  return join(tmpdir(), `cellar-${name}.sock`);
}
