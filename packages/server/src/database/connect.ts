import { fileURLToPath } from 'node:url';
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { migrate } from 'drizzle-orm/mysql2/migrator';
import mysql from 'mysql2/promise';
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

export async function migrateDatabase(url: string): Promise<void> {
  const connection = await mysql.createConnection({ uri: url, timezone: 'Z' });
  try {
    await migrate(drizzle(connection), { migrationsFolder: MIGRATIONS });
  } finally {
    await connection.end();
  }
}

/** Whether a thrown error is the database's word that such a row exists already. */
export function isDuplicate(error: unknown): boolean {
  const cause = error instanceof Error && error.cause !== undefined ? error.cause : error;
  return cause instanceof Error && 'code' in cause && cause.code === 'ER_DUP_ENTRY';
}
