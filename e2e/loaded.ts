import { execFile } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import mysql from 'mysql2/promise';

export interface DatabaseAddresses {
  url: string;
  setupUrl: string;
}

/** What the loader of the demo's small shop left: SQL, what its database's user may do, and a folder with its racks. */
interface Loaded {
  folder: string;
  database: string;
  sql: string;
  rights: string[];
}

const run = promisify(execFile);
const LOADER = fileURLToPath(new URL('../packages/server/dist/run/load.js', import.meta.url));
const MIGRATIONS = fileURLToPath(new URL('../packages/server/migrations/', import.meta.url));
const RACKS = 'racks';
/** Names a rack, in its own folder. */
const MARK = '.bright-cellar-rack';
const ID = /[\da-f]{8}(?:-[\da-f]{4}){3}-[\da-f]{12}/g;
const SQL_MOST = 16e6;
/** It takes two seconds. */
const LOADED_WITHIN_MS = 60_000;

let loaded: Promise<Loaded> | undefined;

/** Stands for a program of the product as it was built. @param path of it, below `packages` and without its ending */
export function digestOfBuild(path: string): string {
  const digest = createHash('sha256');
  const program = fileURLToPath(new URL(`../packages/${path}.`, import.meta.url));
  const parts = readdirSync(dirname(program)).filter((one) => one.startsWith(basename(program)));
  for (const part of parts.sort()) digest.update(readFileSync(join(dirname(program), part)));
  return digest.digest('hex').slice(0, 16);
}

/**
 * Fills an empty database and a data folder as the demo's loader would: it runs once for all tests of this build, and what it
 * left is given to each, with ids of its own. Loading each anew is a quarter of what starting it takes.
 * @param newDatabase makes one
 */
export async function fill(
  data: string,
  database: DatabaseAddresses,
  newDatabase: () => Promise<DatabaseAddresses>,
): Promise<void> {
  const { folder, sql, rights, database: from } = await (loaded ??= loadedOnce(newDatabase));
  const ids = new Map<string, string>();
  const own = (text: string) =>
    text.replaceAll(folder, data).replaceAll(ID, (id) => {
      const other = ids.get(id) ?? randomUUID();
      ids.set(id, other);
      return other;
    });
  await query(database.setupUrl, own(sql));
  const to = nameOf(database.setupUrl);
  await query(database.setupUrl, rights.map((right) => right.replaceAll(from, to)).join(';\n'));
  cpSync(join(folder, RACKS), join(data, RACKS), { recursive: true });
  for (const rack of readdirSync(join(data, RACKS))) {
    const mark = join(data, RACKS, rack, MARK);
    writeFileSync(mark, own(readFileSync(mark, 'utf8')));
  }
}

/** Whoever comes first loads it; the others, in processes of their own, wait for that. */
async function loadedOnce(newDatabase: () => Promise<DatabaseAddresses>): Promise<Loaded> {
  const today = new Date().toISOString().slice(0, 10);
  // The loader makes the tables too, from files that are not built.
  const tables = createHash('sha256');
  for (const name of readdirSync(MIGRATIONS)
    .filter((one) => one.endsWith('.sql'))
    .sort())
    tables.update(readFileSync(join(MIGRATIONS, name)));
  const of = `${digestOfBuild('server/dist/run/load')}-${tables.digest('hex').slice(0, 16)}`;
  const folder = join(tmpdir(), `cellar-loaded-${of}-${today}`);
  const left = join(folder, 'loaded.json');
  const until = Date.now() + LOADED_WITHIN_MS;
  const isFirst = mkdirSync(folder, { recursive: true }) !== undefined;
  while (!isFirst && !existsSync(left)) {
    // Who began it was stopped in the middle: whoever waits next is the first.
    if (Date.now() > until) rmSync(folder, { recursive: true, force: true });
    if (!existsSync(folder)) return loadedOnce(newDatabase);
    await sleep(100);
  }
  if (!isFirst) return JSON.parse(readFileSync(left, 'utf8')) as Loaded;
  try {
    const found = await load(folder, await newDatabase());
    writeFileSync(`${left}.new`, JSON.stringify(found));
    renameSync(`${left}.new`, left);
    return found;
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error;
  }
}

async function load(folder: string, { url, setupUrl }: DatabaseAddresses): Promise<Loaded> {
  await run(process.execPath, [LOADER, '--data', folder], {
    env: {
      ...process.env,
      ...{ CELLAR_DATABASE_URL: url, CELLAR_DATABASE_SETUP_URL: setupUrl, CELLAR_DATA: folder },
      // Each process is told of the others; this one asks none of them.
      ...{ CELLAR_LINK_ADDRESS: 'http://127.0.0.1:1', CELLAR_LINK_TOKEN: randomUUID() },
      CELLAR_WORK_SOCKET: join(folder, 'work.sock'),
    },
  });
  const database = nameOf(setupUrl);
  const { stdout: sql } = await run(
    'mariadb-dump',
    [...signIn(setupUrl), '--skip-comments', database],
    { env: withPassword(setupUrl), maxBuffer: SQL_MOST },
  );
  const connection = await mysql.createConnection(url);
  try {
    const [rows] = await connection.query<mysql.RowDataPacket[]>('SHOW GRANTS');
    const rights = rows.flatMap((row) => Object.values(row).map(String));
    return { folder, database, sql, rights: rights.filter((right) => right.includes(database)) };
  } finally {
    await connection.end();
  }
}

/** Statements of any kind, as the database's own client takes them. */
async function query(setupUrl: string, sql: string): Promise<void> {
  const running = run('mariadb', [...signIn(setupUrl), nameOf(setupUrl)], {
    env: withPassword(setupUrl),
  });
  running.child.stdin?.end(sql);
  await running;
}

const nameOf = (url: string) => new URL(url).pathname.slice(1);

function signIn(url: string): string[] {
  const { hostname, port, username } = new URL(url);
  return ['-h', hostname, '-P', port, '-u', username];
}

const withPassword = (url: string) => ({ ...process.env, MYSQL_PWD: new URL(url).password });
