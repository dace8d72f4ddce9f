import type mysql from 'mysql2/promise';

/** A made-up id, the same in every run. @param kind two hexadecimal digits @param of the number, in SQL */
const idOf = (kind: string, of: string) =>
  `concat('${kind}000000-0000-4000-8000-', lpad(${of}, 12, '0'))`;

/** Fills the catalogue in SQL alone: a hundred thousand of anything over HTTP would take an hour. */
export async function fillCatalogue(
  db: mysql.Connection,
  { tickets, archives, audits = 2 }: { tickets: number; archives: number; audits?: number },
): Promise<void> {
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
     from seq_1_to_${tickets}`,
    `insert into devices (id, serial, family, family_name, kind, model, name, os_name, os_version, capacity, seen_at)
     select ${idOf('02', 'seq')}, concat('VA7K', lpad(seq, 8, '0')), 'vireo', 'Vireo', 'phone', 'Arc 7',
       concat('Phone ', seq), 'Vireo OS', '17.2', 128000000000, ${openedAt}
     from seq_1_to_${tickets}`,
    `insert into tickets (id, number, customer_id, device_id, reason, notes, opened_by, opened_at, closed_at)
     select ${idOf('03', 'seq')}, concat('19', lpad(seq, 8, '0')), ${idOf('01', 'seq')}, ${idOf('02', 'seq')},
       'replacement', '', '${by}', ${openedAt}, if(seq % 200 = 0, null, now(3))
     from seq_1_to_${tickets}`,
    `insert into archives (id, ticket_id, device_id, password_holder, reminder, created_at)
     select ${idOf('04', 'seq')}, ${idOf('03', 'seq')}, ${idOf('02', 'seq')}, 'customer', '', ${openedAt}
     from seq_1_to_${archives}`,
    `insert into copies (id, archive_id, rack_id, folder, stored_bytes, created_at)
     select ${idOf('05', 'seq')}, ${idOf('04', 'seq')}, '${on}', concat('archive-', seq), 300000000, ${openedAt}
     from seq_1_to_${archives}`,
    `insert into backups (id, archive_id, ticket_id, operation_id, taken_at, taken_by, os_version, content_revision,
       items, bytes, stored_bytes, new_items, new_bytes, duration_ms, digest, classes, failed, scope, coverage)
     select ${idOf('06', 'seq')}, ${idOf('04', 'seq')}, ${idOf('03', 'seq')}, ${idOf('07', 'seq')}, ${openedAt},
       '${by}', '17.2', 'r', 3000, 400000000, 300000000, 3000, 400000000, 60000, '', '[]', '[]',
       '{"mode":"everything","encrypted":true,"everything":true}', '[]'
     from seq_1_to_${archives}`,
    `insert into proofs (id, copy_id, backup_id, operation_id, at, \`by\`, level, outcome, items, bytes, stored_bytes, what)
     select ${idOf('08', 'seq')}, ${idOf('05', 'seq')}, ${idOf('06', 'seq')}, ${idOf('09', 'seq')}, ${openedAt},
       '${by}', 'full', 'whole', 3000, 400000000, 300000000, ''
     from seq_1_to_${archives}`,
    `insert into archive_rows (archive_id, taken_at, items, bytes, stored_bytes, device_name, serial, customer_name,
       ticket_number, rack_name, proven_at, proof, search)
     select ${idOf('04', 'seq')}, ${openedAt}, 3000, 400000000, 300000000, concat('Phone ', seq),
       concat('VA7K', lpad(seq, 8, '0')), concat('Customer ', seq), concat('19', lpad(seq, 8, '0')), 'Alder', ${openedAt},
       'proven', concat('19', lpad(seq, 8, '0'), ' customer ', seq, ' phone ', seq, ' vireo arc 7 va7k', lpad(seq, 8, '0'), ' alder')
     from seq_1_to_${archives}`,
    `update archive_sums set archives = ${archives}, stored_bytes = 300000000 * ${archives} where proof = 'proven'`,
    `insert into operations (id, kind, state, ticket_id, device_id, archive_id, backup_id, input, phase, started_by,
       started_at, ended_at, result, estimate, problem)
     select ${idOf('07', 'seq')}, 'backup', 'done', ${idOf('03', 'seq')}, 'somebody-else', ${idOf('04', 'seq')},
       ${idOf('06', 'seq')}, '{"version":1,"value":{"isNew":true}}', 'committing', '${by}', ${openedAt}, ${openedAt},
       '{"version":1,"value":{"items":3000,"bytes":400000000,"failed":[],"durationMs":60000,"storedBytes":300000000,"newItems":3000,"newBytes":400000000,"workedMs":60000,"digest":""}}',
       '{"at":"2026-11-01T12:00:00.000Z","items":3000,"bytes":400000000,"stored":{"low":2,"likely":3,"high":4},"ms":{"low":2,"likely":3,"high":4},"linkMs":2}',
       null
     from seq_1_to_${archives}`,
    `insert into audit (at, technician_id, ticket_id, action, what, digest)
     select now(3) - interval seq second, '${by}', ${idOf('03', `1 + seq % ${tickets}`)}, 'operation-ended', 'Backup taken', ''
     from seq_1_to_${audits}`,
    `update racks set archives = ${archives}, stored_bytes = 300000000 * ${archives} where id = '${on}'`,
  ];
  for (const statement of statements) await db.query(statement);
}
