import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { Failure } from '@bright-cellar/core';
import { DrizzleQueryError, sql } from 'drizzle-orm';
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { migrate } from 'drizzle-orm/mysql2/migrator';
import mysql from 'mysql2/promise';
import { describeError, type Log } from '../log.js';

export type Database = MySql2Database;
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

export interface Connection {
  db: Database;
  close(): Promise<void>;
}

export function connect(url: string): Connection {
  const pool = mysql.createPool({ uri: url, timezone: 'Z', connectionLimit: 8, trace: false });
  const db = drizzle(pool);
  const transaction = db.transaction.bind(db);
  db.transaction = (work, config) => untilUndisturbed(() => transaction(work, config));
  return { db, close: () => pool.end() };
}

/** What a transaction goes by was changed by another one since it began: it begins anew. */
export class Overtaken extends Error {
  override readonly message = 'overtaken by another transaction';
  readonly code = 'overtaken';
}

const TRIES = 12;
/** The database took back a whole transaction, since two waited for each other or one waited too long; or it was overtaken. */
const disturbances: readonly unknown[] = [
  'ER_LOCK_DEADLOCK',
  'ER_LOCK_WAIT_TIMEOUT',
  new Overtaken().code,
];

/** Does it again when the database took it back because of others: whoever asked need not know that there were any. */
export async function untilUndisturbed<T>(transaction: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await transaction();
    } catch (error) {
      if (tries === TRIES || !disturbances.includes(databaseCode(error))) throw error;
      await sleep(Math.random() * 20 * tries);
    }
  }
}

export const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url));

/** Rows of it are added and read, never changed: also by rights, beside the triggers that refuse it. */
const APPEND_ONLY = 'audit';

/**
 * Brings a database up to date and says, table by table, what the product may do there.
 * @param setupUrl of a user who may change tables and hand out rights
 * @param url of the user that the product runs as
 * @param migrationsFolder another folder of them: for tests
 */
export async function migrateDatabase(
  setupUrl: string,
  url: string,
  migrationsFolder = MIGRATIONS,
): Promise<void> {
  const connection = await mysql.createConnection({ uri: setupUrl, timezone: 'Z' });
  try {
    await migrate(drizzle(connection), { migrationsFolder });
    const user = `${connection.escape(decodeURIComponent(new URL(url).username))}@'127.0.0.1'`;
    const [tables] = await connection.query<mysql.RowDataPacket[]>('SHOW TABLES');
    for (const name of tables.flatMap((row) => Object.values(row).map(String))) {
      const rights = name.startsWith('__')
        ? 'SELECT'
        : name === APPEND_ONLY
          ? 'SELECT, INSERT'
          : 'SELECT, INSERT, UPDATE, DELETE';
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

/** What a client says of a database that is not there, is going, or went in the middle of an answer. */
const awayCodes: readonly unknown[] = [
  ...['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ENOENT', 'ETIMEDOUT', 'PROTOCOL_CONNECTION_LOST'],
  ...['ER_SERVER_SHUTDOWN', 'ER_CON_COUNT_ERROR'],
];

/** Whether a query failed since the database was not there for it. */
export function isDatabaseAway(error: unknown): boolean {
  // A connection that cannot be had at all is told by the client itself.
  const isOfDatabase =
    error instanceof DrizzleQueryError || (error instanceof Error && 'fatal' in error);
  return isOfDatabase && awayCodes.includes(databaseCode(error));
}

/** What that means to a technician; anything else is passed on. */
export function databaseFailure(error: unknown): unknown {
  return isDatabaseAway(error) ? new Failure('database-away', {}, { cause: error }) : error;
}

/** Whether a row was refused since another has what only one may have. */
export const isDuplicate = (error: unknown): boolean => databaseCode(error) === 'ER_DUP_ENTRY';

/** What the database calls it, of an error of its own; null of any other. */
function databaseCode(error: unknown): unknown {
  const cause = error instanceof Error && error.cause !== undefined ? error.cause : error;
  return cause instanceof Error && 'code' in cause ? cause.code : null;
}
