import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
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
const LOADER = fileURLToPath(new URL('../packages/server/dist/run/load.js', import.meta.url).href);
const RACKS = 'racks';
/** Names a rack, in its own folder. */
const MARK = '.bright-cellar-rack';
const ID = /[\da-f]{8}(?:-[\da-f]{4}){3}-[\da-f]{12}/g;
const SQL_MOST = 16e6;

let loaded: Promise<Loaded> | undefined;

/**
 * Fills an empty database and a data folder as the demo's loader would: it runs once in this process, and what it left is
 * given to each, with ids of its own. Loading each anew is a quarter of what starting it takes.
 * @param newDatabase makes one
 */
export async function fill(
  data: string,
  database: DatabaseAddresses,
  newDatabase: () => Promise<DatabaseAddresses>,
): Promise<void> {
  const { folder, sql, rights, database: from } = await (loaded ??= load(await newDatabase()));
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

async function load({ url, setupUrl }: DatabaseAddresses): Promise<Loaded> {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-loaded-'));
  process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
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
