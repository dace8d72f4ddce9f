import {
  createReadStream,
  existsSync,
  writeFileSync,
  createWriteStream,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
} from 'node:fs';
import { basename, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { sql } from 'drizzle-orm';
import mysql from 'mysql2/promise';
import { z } from 'zod';
import { migrateDatabase, MIGRATIONS, type Database } from './connect.js';
import { dumpOf, loadInto } from './dump.js';

/** Why a catalogue could not be brought up to date: for whoever started the program. */
export class UpgradeFailure extends Error {}

interface Upgrade {
  /** Of a user who may change tables and hand out rights. */
  setupUrl: string;
  /** Of the user that the product runs as. */
  url: string;
  /** Where snapshots are kept. */
  folder: string;
  /** Another folder of migrations: for tests. */
  migrations?: string;
  /** Called when there is something to do, before anything is changed. @param migrations how many were made before */
  before?: (migrations: number) => Promise<void>;
}

const KEPT_SNAPSHOTS = 3;
/** Names the snapshot of an upgrade that has begun and not ended. */
const UNDER_WAY = 'under-way';
const journalSchema = z.object({ entries: z.array(z.object({ tag: z.string() })) });

/**
 * Brings a catalogue up to date. What was there is kept as a snapshot first; where a step fails, all of it is put back.
 * @throws UpgradeFailure that says what to do; the catalogue is as it was before
 */
export async function upgradeDatabase(upgrade: Upgrade): Promise<void> {
  const { setupUrl, url, folder, migrations = MIGRATIONS } = upgrade;
  const known = migrationsKnown(migrations);
  await finishCutOff(setupUrl, folder);
  const made = await migrationsMade(setupUrl);
  if (made > known) {
    throw new UpgradeFailure(
      'The catalogue was written by a newer version of the program. Nothing was changed. Start that version again (“git pull”).',
    );
  }
  if (made === 0 || made === known) return migrateDatabase(setupUrl, url, migrations);
  await upgrade.before?.(made);
  const snapshot = await takeSnapshot(setupUrl, folder, made);
  // Tables change a statement at a time: who is cut off here begins the next time with what was there before.
  writeFileSync(join(folder, UNDER_WAY), basename(snapshot), { mode: 0o600, flush: true });
  try {
    await migrateDatabase(setupUrl, url, migrations);
    rmSync(join(folder, UNDER_WAY));
  } catch (error) {
    await putBack(setupUrl, snapshot);
    rmSync(join(folder, UNDER_WAY));
    // Of what is there now, triggers and rights are as they were.
    const why = error instanceof Error ? (error.cause ?? error) : error;
    throw new UpgradeFailure(
      `The catalogue could not be brought up to date: ${why instanceof Error ? why.message : 'for an unknown reason'}.\n` +
        `It was put back as it was before (${snapshot}). Go back to the version before (“git checkout” of it), start that, and report this.`,
      { cause: error },
    );
  }
}

/** An upgrade that was cut off is taken back. */
async function finishCutOff(setupUrl: string, folder: string): Promise<void> {
  const marker = join(folder, UNDER_WAY);
  if (!existsSync(marker)) return;
  await putBack(setupUrl, join(folder, readFileSync(marker, 'utf8')));
  rmSync(marker);
}

/** How many migrations the program has. */
export const migrationsKnown = (folder = MIGRATIONS): number =>
  journalSchema.parse(JSON.parse(readFileSync(join(folder, 'meta/_journal.json'), 'utf8'))).entries
    .length;

/** The same of one that is connected to, by the product’s own user. */
export async function migrationsIn(db: Database): Promise<number> {
  const [rows] = await db.execute(sql`select count(*) as n from __drizzle_migrations`);
  return Number((rows as unknown as { n: number }[])[0]?.n);
}

/** How many migrations a database has; 0 where there is nothing in it. */
export async function migrationsMade(setupUrl: string): Promise<number> {
  const connection = await mysql.createConnection({ uri: setupUrl });
  try {
    const [tables] = await connection.query<mysql.RowDataPacket[]>(
      "SHOW TABLES LIKE '\\_\\_drizzle\\_migrations'",
    );
    if (tables.length === 0) return 0;
    const [rows] = await connection.query<mysql.RowDataPacket[]>(
      'SELECT COUNT(*) AS n FROM __drizzle_migrations',
    );
    return Number(rows[0]?.n);
  } finally {
    await connection.end();
  }
}

/** @returns its path: gzip of SQL */
async function takeSnapshot(setupUrl: string, folder: string, made: number): Promise<string> {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const at = new Date().toISOString().replaceAll(/[-:]|\.\d+/g, '');
  const path = join(folder, `${at}-before-${made + 1}.sql.gz`);
  await pipeline(
    Readable.from(dumpOf(setupUrl)),
    createGzip(),
    createWriteStream(`${path}.part`, { mode: 0o600, flush: true }),
  );
  renameSync(`${path}.part`, path);
  const all = readdirSync(folder)
    .filter((name) => name.endsWith('.sql.gz'))
    .sort();
  for (const name of all.slice(0, -KEPT_SNAPSHOTS)) rmSync(join(folder, name));
  return path;
}

/** Everything that is there goes, and what was there comes back. */
async function putBack(setupUrl: string, snapshot: string): Promise<void> {
  await emptyDatabase(setupUrl);
  await loadInto(setupUrl, createReadStream(snapshot).pipe(createGunzip()));
  await makeTriggers(setupUrl);
}

export async function emptyDatabase(setupUrl: string): Promise<void> {
  const connection = await mysql.createConnection({ uri: setupUrl });
  try {
    await connection.query('SET foreign_key_checks = 0');
    const [tables] = await connection.query<mysql.RowDataPacket[]>('SHOW TABLES');
    for (const name of tables.flatMap((row) => Object.values(row).map(String))) {
      await connection.query(`DROP TABLE ${connection.escapeId(name)}`);
    }
  } finally {
    await connection.end();
  }
}

/** What refuses to change the record: no dump has it. */
export async function makeTriggers(setupUrl: string): Promise<void> {
  const connection = await mysql.createConnection({ uri: setupUrl });
  try {
    for (const [name, event, said] of [
      ['audit_no_update', 'UPDATE', 'audit rows are never changed'],
      ['audit_no_delete', 'DELETE', 'audit rows are never removed'],
    ] as const) {
      await connection.query(
        `CREATE OR REPLACE TRIGGER ${name} BEFORE ${event} ON audit FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '${said}'`,
      );
    }
  } finally {
    await connection.end();
  }
}
