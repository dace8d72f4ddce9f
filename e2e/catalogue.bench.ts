import mysql from 'mysql2/promise';
import { expect, test } from 'vitest';
import { Api } from './api.js';
import { startTestProduct } from './product.js';

/**
 * `npm run bench:catalogue`: how long each GET route takes over the catalogue of a shop that has been there for years, beside
 * the lightest of them (the house rules), which is one row by its name.
 */
const ARCHIVES = Number(process.env.CATALOGUE_ARCHIVES ?? 100_000);
const TICKETS = Number(process.env.CATALOGUE_TICKETS ?? 150_000);
const CALLS = Number(process.env.CATALOGUE_CALLS ?? 20);
/** A route that takes longer than this is not called again. */
const PATIENCE_MS = 20_000;
const BASELINE = '/api/settings';

/** A made-up id, the same in every run. @param kind two hexadecimal digits @param of the number, in SQL */
const idOf = (kind: string, of: string) =>
  `concat('${kind}000000-0000-4000-8000-', lpad(${of}, 12, '0'))`;

/** Fills the catalogue in SQL alone: a hundred thousand of anything over HTTP would take an hour. */
async function fill(db: mysql.Connection): Promise<void> {
  const [[technician]] = await db.query<mysql.RowDataPacket[]>(
    'select id from technicians limit 1',
  );
  const [[rack]] = await db.query<mysql.RowDataPacket[]>('select id from racks limit 1');
  const [by, on] = [String(technician?.id), String(rack?.id)];
  const openedAt = 'now(3) - interval seq minute';
  const statements = [
    `insert into customers (id, name, phone, email, created_at, search)
     select ${idOf('01', 'seq')}, concat('Customer ', seq), concat('+44 7700 ', seq), '', ${openedAt},
       concat('customer ', seq, ' +44 7700 ', seq)
     from seq_1_to_${TICKETS}`,
    `insert into devices (id, serial, family, family_name, kind, model, name, os_name, os_version, capacity, seen_at)
     select ${idOf('02', 'seq')}, concat('VA7K', lpad(seq, 8, '0')), 'vireo', 'Vireo', 'phone', 'Arc 7',
       concat('Phone ', seq), 'Vireo OS', '17.2', 128000000000, ${openedAt}
     from seq_1_to_${TICKETS}`,
    `insert into tickets (id, number, customer_id, device_id, reason, notes, opened_by, opened_at, closed_at)
     select ${idOf('03', 'seq')}, concat('19', lpad(seq, 8, '0')), ${idOf('01', 'seq')}, ${idOf('02', 'seq')},
       'replacement', '', '${by}', ${openedAt}, if(seq % 200 = 0, null, now(3))
     from seq_1_to_${TICKETS}`,
    `insert into archives (id, ticket_id, device_id, password_holder, reminder, created_at)
     select ${idOf('04', 'seq')}, ${idOf('03', 'seq')}, ${idOf('02', 'seq')}, 'customer', '', ${openedAt}
     from seq_1_to_${ARCHIVES}`,
    `insert into copies (id, archive_id, rack_id, folder, stored_bytes, created_at)
     select ${idOf('05', 'seq')}, ${idOf('04', 'seq')}, '${on}', concat('archive-', seq), 300000000, ${openedAt}
     from seq_1_to_${ARCHIVES}`,
    `insert into backups (id, archive_id, ticket_id, operation_id, taken_at, taken_by, os_version, content_revision,
       items, bytes, stored_bytes, new_items, new_bytes, duration_ms, digest, classes, failed, scope, coverage)
     select ${idOf('06', 'seq')}, ${idOf('04', 'seq')}, ${idOf('03', 'seq')}, ${idOf('07', 'seq')}, ${openedAt},
       '${by}', '17.2', 'r', 3000, 400000000, 300000000, 3000, 400000000, 60000, '', '[]', '[]',
       '{"mode":"everything","encrypted":true,"everything":true}', '[]'
     from seq_1_to_${ARCHIVES}`,
    `insert into proofs (id, copy_id, backup_id, operation_id, at, \`by\`, level, outcome, items, bytes, stored_bytes, what)
     select ${idOf('08', 'seq')}, ${idOf('05', 'seq')}, ${idOf('06', 'seq')}, ${idOf('09', 'seq')}, ${openedAt},
       '${by}', 'full', 'whole', 3000, 400000000, 300000000, ''
     from seq_1_to_${ARCHIVES}`,
    `insert into archive_rows (archive_id, taken_at, items, bytes, stored_bytes, device_name, serial, customer_name,
       ticket_number, rack_name, proven_at, proof, search)
     select ${idOf('04', 'seq')}, ${openedAt}, 3000, 400000000, 300000000, concat('Phone ', seq),
       concat('VA7K', lpad(seq, 8, '0')), concat('Customer ', seq), concat('19', lpad(seq, 8, '0')), 'Alder', ${openedAt},
       'proven', concat('19', lpad(seq, 8, '0'), ' customer ', seq, ' phone ', seq, ' vireo arc 7 va7k', lpad(seq, 8, '0'), ' alder')
     from seq_1_to_${ARCHIVES}`,
    `insert into operations (id, kind, state, ticket_id, device_id, archive_id, backup_id, input, phase, started_by,
       started_at, ended_at, result, estimate, problem)
     select ${idOf('07', 'seq')}, 'backup', 'done', ${idOf('03', 'seq')}, 'somebody-else', ${idOf('04', 'seq')},
       ${idOf('06', 'seq')}, '{"version":1,"value":{"isNew":true}}', 'committing', '${by}', ${openedAt}, ${openedAt},
       '{"version":1,"value":{"items":3000,"bytes":400000000,"failed":[],"durationMs":60000,"storedBytes":300000000,"newItems":3000,"newBytes":400000000,"workedMs":60000,"digest":""}}',
       '{"at":"2026-11-01T12:00:00.000Z","items":3000,"bytes":400000000,"stored":{"low":2,"likely":3,"high":4},"ms":{"low":2,"likely":3,"high":4},"linkMs":2}',
       null
     from seq_1_to_${ARCHIVES}`,
    `update racks set archives = ${ARCHIVES}, stored_bytes = 300000000 * ${ARCHIVES} where id = '${on}'`,
  ];
  for (const statement of statements) await db.query(statement);
}

const routes = [
  BASELINE,
  '/api/bench',
  '/api/find?text=Customer+777',
  '/api/find?text=V',
  '/api/find?text=nobody',
  '/api/customers?text=Customer',
  '/api/customers?text=nobody',
  '/api/tickets',
  '/api/tickets/1900000001',
  '/api/archives',
  '/api/archives?sort=device&order=asc',
  '/api/archives?text=customer+777',
  '/api/archives?text=nobody',
  '/api/archives/summary',
  `/api/archives/04000000-0000-4000-8000-000000000001`,
  '/api/racks',
  '/api/schedules',
  '/api/operations',
  `/api/reports/day?day=${new Date().toISOString().slice(0, 10)}`,
  '/api/packages',
  '/api/recovered',
  '/api/account',
];

const quantile = (sorted: readonly number[], q: number) =>
  sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? Number.NaN;

test('every list over a full catalogue', async () => {
  const product = await startTestProduct({ only: [] });
  const db = await mysql.createConnection(product.databaseSetupUrl);
  try {
    await fill(db);
    const api = await Api.signedIn(product);
    let baseline = Number.NaN;
    process.stderr.write(`${TICKETS} tickets, ${ARCHIVES} archives; beside ${BASELINE}\n`);
    for (const path of routes) {
      const times: number[] = [];
      let [bytes, status] = [0, 0];
      for (let call = 0; call < CALLS && (times.at(-1) ?? 0) < PATIENCE_MS; call++) {
        const began = performance.now();
        const response = await api.raw(path);
        bytes = (await response.arrayBuffer()).byteLength;
        status = response.status;
        times.push(performance.now() - began);
      }
      times.sort((a, b) => a - b);
      const [p50, p95] = [quantile(times, 0.5), quantile(times, 0.95)];
      if (path === BASELINE) baseline = p50;
      const figures = `p50 ${p50.toFixed(1)} ms, p95 ${p95.toFixed(1)} ms, ${(p50 / baseline).toFixed(1)} of the baseline`;
      process.stderr.write(`${path.padEnd(56)} ${figures}, ${Math.round(bytes / 1000)} kB\n`);
      expect(status, path).toBe(200);
    }
  } finally {
    await db.end();
    await product.stop();
  }
});
