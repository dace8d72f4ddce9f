import { readdirSync, readFileSync } from 'node:fs';
import mysql from 'mysql2/promise';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { inputOf, resultOf } from '../engine/rows.js';
import { testDatabase } from '../testing/catalogue.js';
import type { Versioned } from './schema.js';

/** A database as an earlier version left it, brought along a migration at a time. */
const folder = new URL('../../migrations/', import.meta.url);
const files = readdirSync(folder).filter((name) => name.endsWith('.sql'));
let connection: mysql.Connection;
let at = 0;

beforeAll(async () => {
  connection = await mysql.createConnection((await testDatabase()).setupUrl);
  await connection.query('SET foreign_key_checks = 0');
});
afterAll(() => connection.end());

/** Every migration that was not made yet, up to and with the one of that number. */
async function migrateTo(number: string) {
  const last = files.findIndex((name) => name.startsWith(number));
  expect(last).toBeGreaterThanOrEqual(at);
  for (; at <= last; at++) {
    const text = readFileSync(new URL(files[at] ?? '', folder), 'utf8');
    for (const statement of text.split('--> statement-breakpoint')) {
      await connection.query(statement);
    }
  }
}

const insert = (table: string, row: Record<string, unknown>) =>
  connection.query('INSERT INTO ?? SET ?', [table, row]);
const select = async (sql: string) =>
  (await connection.query<mysql.RowDataPacket[]>(sql))[0] as unknown as Record<string, string>[];

test('chats are named by the application that keeps them, wherever one stands', async () => {
  await migrateTo('0011');
  const what = (set: string) => ({
    ...{ kind: 'records', set, format: 'csv', dates: 'iso', named: true, media: false },
    ...{ append: true, fileName: 'a.csv' },
  });
  const at = '2026-11-25 09:00:00';
  for (const [i, set] of ['tansy', 'corbel', 'messages'].entries()) {
    await insert('schedules', {
      ...{ id: `s${i}`, ticket_id: 't', takes: set, schedule: '{}', created_by: 'p' },
      ...{ extract: JSON.stringify({ rackId: 'r', what: what(set) }), created_at: at },
    });
    await insert('operations', {
      ...{ id: `o${i}`, kind: 'extract', state: 'done', phase: 'taking', started_by: 'p' },
      ...{ started_at: at, retryable: 0 },
      input: JSON.stringify({
        version: 1,
        value: { rackId: crypto.randomUUID(), revision: null, ticket: '260001', what: what(set) },
      }),
      // What had not ended yet has none; which of the two nothings it has is the driver’s.
      result: [
        null,
        'null',
        JSON.stringify({
          version: 1,
          value: { items: 1, bytes: 2, failed: [], durationMs: 3, newItems: 1, wrote: 'a.csv' },
        }),
      ][i],
    });
  }
  await insert('schedules', {
    ...{ id: 'whole', ticket_id: 't', takes: 'backup', schedule: '{}', created_by: 'p' },
    ...{ extract: null, created_at: at },
  });

  await migrateTo('0012');
  expect(
    await select(
      'SELECT takes, JSON_VALUE(extract, "$.what.set") AS taken FROM schedules ORDER BY id',
    ),
  ).toEqual([
    { takes: 'chats/tansy', taken: 'chats/tansy' },
    { takes: 'chats/corbel', taken: 'chats/corbel' },
    { takes: 'messages', taken: 'messages' },
    { takes: 'backup', taken: null },
  ]);
  const rows = (await select('SELECT input, result FROM operations ORDER BY id')).map((row) => ({
    input: inputOf('extract', JSON.parse(row.input ?? '') as Versioned),
    result: resultOf('extract', JSON.parse(row.result ?? 'null') as Versioned | null),
  }));
  expect(rows.map(({ input }) => input.what)).toEqual(
    ['chats/tansy', 'chats/corbel', 'messages'].map(what),
  );
  expect(rows.map(({ result }) => result?.wrote)).toEqual([undefined, undefined, 'a.csv']);
});
