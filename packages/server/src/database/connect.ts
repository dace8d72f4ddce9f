import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { sql } from 'drizzle-orm';
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { migrate } from 'drizzle-orm/mysql2/migrator';
import mysql from 'mysql2/promise';
import { describeError, type Log } from '../log.js';
import * as schema from './schema.js';

export type Database = MySql2Database<typeof schema>;
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

export interface Connection {
  db: Database;
  close(): Promise<void>;
}

export function connect(url: string): Connection {
  const pool = mysql.createPool({ uri: url, timezone: 'Z', connectionLimit: 8 });
  return { db: drizzle(pool, { schema, mode: 'default' }), close: () => pool.end() };
}

const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url));

/** Rows of it are added and read, never changed: also by rights, beside the triggers that refuse it. */
const APPEND_ONLY = 'audit';

/**
 * Brings a database up to date and says, table by table, what the product may do there.
 * @param setupUrl of a user who may change tables and hand out rights
 * @param url of the user that the product runs as
 */
export async function migrateDatabase(setupUrl: string, url: string): Promise<void> {
  const connection = await mysql.createConnection({ uri: setupUrl, timezone: 'Z' });
  try {
    await migrate(drizzle(connection), { migrationsFolder: MIGRATIONS });
    const user = `${connection.escape(decodeURIComponent(new URL(url).username))}@'127.0.0.1'`;
    const [tables] = await connection.query<mysql.RowDataPacket[]>('SHOW TABLES');
    for (const name of tables.flatMap((row) => Object.values(row).map(String))) {
      if (name.startsWith('__')) continue;
      const rights = name === APPEND_ONLY ? 'SELECT, INSERT' : 'SELECT, INSERT, UPDATE, DELETE';
      await connection.query(`GRANT ${rights} ON ${connection.escapeId(name)} TO ${user}`);
    }
  } finally {
    await connection.end();
  }
}

const ASK_AGAIN_MS = 500;
const TELL_EVERY_TRIES = 20;

/** Waits for the database, however long it takes to be there: whoever looks after it sees why in the log. */
export async function untilDatabaseAnswers(db: Database, log: Log): Promise<void> {
  for (let tries = 0; ; tries++) {
    try {
      await db.execute(sql`select 1`);
      return;
    } catch (error) {
      if (tries % TELL_EVERY_TRIES === 0) {
        log.warn({ error: describeError(error) }, 'the database does not answer; waiting for it');
      }
      await sleep(ASK_AGAIN_MS);
    }
  }
}

/** Whether a thrown error is the database's word that such a row exists already. */
export function isDuplicate(error: unknown): boolean {
  const cause = error instanceof Error && error.cause !== undefined ? error.cause : error;
  return cause instanceof Error && 'code' in cause && cause.code === 'ER_DUP_ENTRY';
}
