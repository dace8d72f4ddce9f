import { sql } from 'drizzle-orm';
import mysql from 'mysql2/promise';
import { afterAll, expect, test } from 'vitest';
import { technicians } from '../database/schema.js';
import { chained, NO_ENTRY } from '../kernel/audit.js';
import { noteOnly, unitOfWork } from '../kernel/unit-of-work.js';
import { testCatalogue } from '../testing/catalogue.js';
import { checkAudit, headOf } from './check.js';
import { everyEntry, listAudit } from './reading.js';

const { db, acting, actor, clock, addTicket, setupUrl } = await testCatalogue();
/** Somebody who can do in the database what the product cannot. */
const intruder = await mysql.createConnection(setupUrl);
afterAll(() => intruder.end());

const everything = { who: '', group: '', ticket: '', from: '', to: '' } as const;
const note = (what: string, ticketId: string | null = null) =>
  noteOnly(acting, { action: 'held', what, ticketId });
const said = async (ask: Partial<Parameters<typeof listAudit>[1]>) =>
  (await listAudit(db, { ...everything, after: '', ...ask })).rows.map(({ what }) => what);

test('each entry is sealed to the one before, in whatever order many write at once', async () => {
  const ticket = await addTicket();
  await Promise.all(
    Array.from({ length: 40 }, (_, i) => note(`Line ${i}.`, i % 2 ? ticket.ticket : null)),
  );
  const head = await headOf(db);
  expect(await checkAudit(db, '')).toEqual({ ...head, broken: null, printedAt: null });
  expect(head.entries).toBeGreaterThanOrEqual(40);
});

test('who has a ticket and who has the head do not wait for each other', async () => {
  const ticket = await addTicket();
  const touched = (what: string) =>
    unitOfWork(acting, async (unit) => {
      await unit.tx.execute(sql`update tickets set notes = ${what} where id = ${ticket.ticket}`);
      unit.note({ action: 'held', what, ticketId: ticket.ticket });
    });
  await Promise.all(
    Array.from({ length: 24 }, (_, i) => (i % 2 ? touched(`T${i}`) : note(`N${i}`, ticket.ticket))),
  );
  expect((await checkAudit(db, '')).broken).toBeNull();
});

test('it is found by who, about what, ticket and day; the newest first, a page at a time', async () => {
  const [here, joss] = [await addTicket(), crypto.randomUUID()];
  await db.insert(technicians).values({
    ...{ id: joss, login: 'joss', name: 'Joss', passwordHash: '', createdAt: clock.now() },
  });
  clock.forward(3 * 86_400_000);
  await note('Here.', here.ticket);
  await noteOnly(
    { ...acting, actor: { ...actor, technicianId: joss } },
    { action: 'rack-added', what: 'A rack.' },
  );
  await noteOnly(
    { ...acting, actor: { ...actor, technicianId: joss } },
    { action: 'backup-started', what: 'Backup started.' },
  );
  expect(await said({ who: joss })).toEqual(['Backup started.', 'A rack.']);
  expect(await said({ group: 'racks' })).toEqual(['A rack.']);
  expect(await said({ group: 'work' })).toEqual(['Backup started.']);
  expect(await said({ ticket: here.number })).toEqual(['Here.']);
  expect(await said({ ticket: '19990001' })).toEqual([]);
  expect(await said({ from: '2026-11-27' })).toEqual(['Backup started.', 'A rack.', 'Here.']);
  expect(await said({ to: '2026-11-23' })).toEqual([]);
  const first = await listAudit(db, { ...everything, after: '' });
  const second = await listAudit(db, { ...everything, after: first.next ?? '' });
  const ids = [...first.rows, ...second.rows].map(({ id }) => id);
  expect(second.next).toBeNull();
  expect(ids).toEqual([...new Set(ids)].sort((a, b) => b - a));
  expect(ids.length).toBe((await headOf(db)).entries);
});

test('what is taken out follows from its first entry, by what docs/audit.md says alone', async () => {
  let [digest, count] = [NO_ENTRY, 0];
  for await (const rows of everyEntry(db, everything)) {
    for (const row of rows) {
      digest = chained(digest, row);
      expect(row.digest).toBe(digest);
      count += 1;
    }
  }
  expect({ digest, entries: count }).toEqual(await headOf(db));
});

test('a seal that was printed is found by its first digits, and says up to where nothing was changed', async () => {
  const { digest, entries } = await headOf(db);
  await note('After the sheet.');
  const spaced = ` ${digest.slice(0, 8).toUpperCase()} ${digest.slice(8, 20)}`;
  expect((await checkAudit(db, spaced)).printedAt).toMatchObject({ entry: entries });
  expect((await checkAudit(db, 'ffffffffffffffffffff')).printedAt).toBeNull();
});

test('an entry that somebody changes, takes away or adds in the database is found', async () => {
  const entries = (await headOf(db)).entries;
  const [[third]] = await intruder.query<mysql.RowDataPacket[]>(
    'SELECT * FROM audit ORDER BY id LIMIT 2, 1',
  );
  await intruder.query('DROP TRIGGER audit_no_update');
  await intruder.query('DROP TRIGGER audit_no_delete');

  await intruder.query("UPDATE audit SET what = 'Nothing.' WHERE id = ?", [third?.id]);
  expect(await checkAudit(db, '')).toMatchObject({ entries: 2, broken: { entry: 3 } });
  // With a digest that suits it, the next one gives it away.
  const [[second]] = await intruder.query<mysql.RowDataPacket[]>(
    'SELECT digest FROM audit ORDER BY id LIMIT 1, 1',
  );
  const suiting = chained(String(second?.digest), {
    ...{ at: third?.at as Date, technicianId: third?.technician_id as string | null },
    ...{ ticketId: third?.ticket_id as string | null, action: 'held', what: 'Nothing.' },
  });
  await intruder.query('UPDATE audit SET digest = ? WHERE id = ?', [suiting, third?.id]);
  expect(await checkAudit(db, '')).toMatchObject({ entries: 3, broken: { entry: 4 } });
  await intruder.query('UPDATE audit SET ? WHERE id = ?', [third, third?.id]);
  expect((await checkAudit(db, '')).broken).toBeNull();

  await intruder.query('INSERT INTO audit SET ?', [{ ...third, id: entries + 1000 }]);
  expect((await checkAudit(db, '')).broken).toMatchObject({ entry: entries + 1 });
  await intruder.query('DELETE FROM audit WHERE id = ?', [entries + 1000]);

  await intruder.query('DELETE FROM audit ORDER BY id DESC LIMIT 1');
  expect((await checkAudit(db, '')).broken).toEqual({ entry: entries, at: null });
});
