import {
  cpSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { afterAll, expect, test } from 'vitest';
import { testDatabase } from '../testing/catalogue.js';
import { MIGRATIONS } from './connect.js';
import { migrationsMade, UpgradeFailure, upgradeDatabase } from './upgrade.js';

const { url, setupUrl } = await testDatabase();
const own = mkdtempSync(join(tmpdir(), 'cellar-upgrade-'));
const folder = join(own, 'upgrades');
const db = await mysql.createConnection({ uri: setupUrl, multipleStatements: true });
afterAll(async () => {
  await db.end();
  rmSync(own, { recursive: true });
});

/** What the program brings, with more steps at the end. */
function version(name: string, more: string[]): string {
  const path = join(own, name);
  cpSync(MIGRATIONS, path, { recursive: true });
  const journalPath = join(path, 'meta/_journal.json');
  const journal = JSON.parse(readFileSync(journalPath, 'utf8')) as { entries: object[] };
  more.forEach((sql, n) => {
    const tag = `99${n}_${name}`;
    writeFileSync(join(path, `${tag}.sql`), sql);
    journal.entries.push({
      ...{ idx: journal.entries.length, version: '5', when: 4e12 + n, tag, breakpoints: true },
    });
  });
  writeFileSync(journalPath, JSON.stringify(journal));
  return path;
}
const upgrade = (migrations: string, more: object = {}) =>
  upgradeDatabase({ setupUrl, url, folder, migrations, ...more });
const names = async () => {
  const [rows] = await db.query<mysql.RowDataPacket[]>(
    "select name, value from settings where name like 'x%'",
  );
  return rows;
};
const isThere = async (table: string) => {
  const [rows] = await db.query<mysql.RowDataPacket[]>('SHOW TABLES LIKE ?', [table]);
  return rows.length > 0;
};
const GOOD = 'CREATE TABLE more_things (id int);';
const before = { value: '{"größe":"5 €"}' };

test('an empty one is made; nothing is saved of nothing', async () => {
  await upgrade(version('first', []));
  expect(existsSync(folder)).toBe(false);
  await db.query("insert into settings (name, value) values ('x', ?)", [before.value]);
});

test('where a step fails, all is as it was, by who may read and what may not be changed too', async () => {
  const made = await migrationsMade(setupUrl);
  let told = 0;
  const failing = upgrade(version('failing', [GOOD, 'ALTER TABLE nobody ADD x int;']), {
    before: async (migrations: number) => void (told = migrations),
  });
  await expect(failing).rejects.toThrow(UpgradeFailure);
  await expect(failing).rejects.toThrow(/nobody.*\n.*put back as it was before/);
  expect(told).toBe(made);
  expect(await migrationsMade(setupUrl)).toBe(made);
  expect(await isThere('more_things')).toBe(false);
  expect(await names()).toEqual([{ name: 'x', value: before.value }]);
  await db.query("insert into audit (at, action, what, digest) values (now(3), 'x', 'x', '')");
  await expect(db.query("update audit set what = 'y'")).rejects.toThrow(/never changed/);
  const product = await mysql.createConnection(url);
  expect((await product.query('select * from settings'))[0]).toHaveLength(1);
  await expect(product.query('delete from audit')).rejects.toThrow(/denied/);
  await product.end();
});

test('one that was cut off in the middle is taken back, and made from there', async () => {
  const [snapshot = ''] = readdirSync(folder).filter((name) => name.endsWith('.sql.gz'));
  // As the failing one left it when the power went: half made, and nothing recorded.
  await db.query(`${GOOD} update settings set value = '1' where name = 'x'`);
  writeFileSync(join(folder, 'under-way'), snapshot);
  await upgrade(version('good', [GOOD]));
  expect(await isThere('more_things')).toBe(true);
  expect(await names()).toEqual([{ name: 'x', value: before.value }]);
  expect(existsSync(join(folder, 'under-way'))).toBe(false);
});

test('one from a newer version is left alone', async () => {
  const older = upgrade(version('older', []));
  await expect(older).rejects.toThrow(/written by a newer version/);
  expect(await isThere('more_things')).toBe(true);
});

test('a few snapshots are kept, for this user only', async () => {
  for (const n of [1, 2, 3, 4]) {
    const steps = Array.from({ length: n + 1 }, (_, i) => (i === 0 ? GOOD : `SELECT ${i};`));
    await upgrade(version(`v${n}`, steps));
  }
  expect(readdirSync(folder)).toHaveLength(3);
});
