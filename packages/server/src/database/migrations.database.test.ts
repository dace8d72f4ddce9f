import { readdirSync, readFileSync } from 'node:fs';
import mysql from 'mysql2/promise';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { inputOf, resultOf } from '../engine/rows.js';
import { chained, NO_ENTRY } from '../kernel/audit.js';
import { testDatabase } from '../testing/catalogue.js';
import { storeOf } from '../racks/index.js';
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
    ['chats/tansy', 'chats/corbel', 'messages'].map((set) => ({
      // What nobody was asked then is as usual.
      ...{ ...what(set), videos: true, clock: 'shop', since: null, until: null },
    })),
  );
  expect(rows.map(({ result }) => result?.wrote)).toEqual([undefined, undefined, 'a.csv']);
});

test('a rack is found by its address, and a copy says what the last look at it found', async () => {
  const at = '2026-11-26 10:00:00';
  const amounts = { items: 1, bytes: 2, stored_bytes: 3 };
  await insert('racks', { id: 'r1', name: 'Alder', path: '/mnt/a "b"\\c', reserve: 5 });
  for (const id of ['kept', 'changed-since', 'bad', 'never']) {
    await insert('copies', {
      ...{ id, archive_id: `of-${id}`, rack_id: 'r1', folder: id, stored_bytes: 1 },
      ...{ generation: id === 'changed-since' ? 2 : 1, created_at: at },
    });
    await insert('backups', {
      ...amounts,
      ...{ id: `b-${id}`, archive_id: `of-${id}`, operation_id: 'o', taken_at: at },
      ...{ taken_by: 'p', os_version: '1', content_revision: '', duration_ms: 1, digest: '' },
      ...{ failed: '[]', classes: '[]', scope: '{}', coverage: '[]', new_items: 1, new_bytes: 1 },
    });
  }
  const proof = (id: string, of: string, change: Record<string, unknown>) =>
    insert('proofs', {
      ...{ id, backup_id: `b-${of}`, operation_id: id, at, by: 'p', ...amounts, what: '' },
      ...{ generation: 1, level: 'full', outcome: 'whole', copy_id: of, ...change },
    });
  await proof('p1', 'kept', { outcome: 'damaged' });
  // From before copies were told apart.
  await proof('p2', 'kept', { copy_id: null });
  await proof('p3', 'changed-since', {});
  await proof('p4', 'bad', { operation_id: 'p4', outcome: 'damaged', level: 'bytes' });
  await proof('p5', 'bad', { operation_id: 'p4', level: 'bytes' });

  await migrateTo('0013');
  const [rack] = await select('SELECT address FROM racks');
  expect(storeOf({ address: JSON.parse(rack?.address ?? '') as Versioned }).mounted).toBe(
    '/mnt/a "b"\\c',
  );
  expect(
    await select(
      'SELECT id, state, checked_level, checked_at IS NULL AS never FROM copies ORDER BY id',
    ),
  ).toEqual([
    { id: 'bad', state: 'damaged', checked_level: 'bytes', never: 0 },
    { id: 'changed-since', state: 'unknown', checked_level: null, never: 1 },
    { id: 'kept', state: 'whole', checked_level: 'full', never: 0 },
    { id: 'never', state: 'unknown', checked_level: null, never: 1 },
  ]);
  expect(await select("SELECT copy_id FROM proofs WHERE id = 'p2'")).toEqual([{ copy_id: 'kept' }]);
});

test('entries of the record from before it was a chain are sealed as those that come are', async () => {
  await migrateTo('0024');
  const person = {
    id: 'p1',
    login: 'wren',
    name: 'Wren',
    password_hash: '',
    created_at: '2026-01-01',
  };
  await insert('technicians', { ...person, role: 'keeper' });
  const entries = [
    { at: '2026-03-01 08:05:06.007', technician_id: 'p1', ticket_id: null, what: 'Signed in.' },
    { at: '2026-10-11 23:59:59.990', technician_id: null, ticket_id: 't1', what: 'Größe\n2 €' },
  ].map((entry) => ({ ...entry, action: 'sign-in' }));
  for (const entry of entries) await insert('audit', entry);
  await migrateTo('0025');
  let digest = NO_ENTRY;
  for (const { at, technician_id, ticket_id, action, what } of entries) {
    digest = chained(digest, {
      ...{ at: new Date(`${at.replace(' ', 'T')}Z`), technicianId: technician_id },
      ...{ ticketId: ticket_id, action, what },
    });
  }
  expect(await select('SELECT digest, entries FROM audit_head')).toEqual([{ digest, entries: 2 }]);
  expect((await select('SELECT digest FROM audit ORDER BY id')).at(-1)).toEqual({ digest });
  await expect(connection.query("UPDATE audit SET what = ''")).rejects.toThrow(/never changed/);
});
