import { rackIdSchema, type RackId } from '@bright-cellar/core';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { randomUUID } from 'node:crypto';
import { parseArgs } from 'node:util';
import { markRack } from '@bright-cellar/archive';
import { count } from 'drizzle-orm';
import { makeMissingRows } from '../archives/index.js';
import { readConfig } from '../config.js';
import { openInstallation } from '../kernel/installation.js';
import { connect, migrateDatabase } from '../database/connect.js';
import { racks, technicians } from '../database/schema.js';
import { keptAddress, storeOf } from '../racks/index.js';
import { addTechnician } from '../people/index.js';
import { loadPast } from './past.js';
import { loadRackDays } from './rack-days.js';

/** Brings the database up to date and, where nothing is in it yet, loads the demo's made-up shop. */
const { values } = parseArgs({
  options: { data: { type: 'string' }, past: { type: 'boolean', default: false } },
});
const data = values.data;
if (!data) throw new Error('--data DIR is needed');
const config = readConfig(process.env);
openInstallation(config.data);
const setupUrl = process.env.CELLAR_DATABASE_SETUP_URL;
if (!setupUrl) throw new Error('CELLAR_DATABASE_SETUP_URL is needed');
await migrateDatabase(setupUrl, config.databaseUrl);
const connection = connect(config.databaseUrl);
const { db } = connection;

// A catalogue from before there were such rows.
await makeMissingRows(db);
const [known] = await db.select({ count: count() }).from(technicians);
if (known?.count === 0) {
  const rackIds: RackId[] = [];
  for (const [name, folder] of [
    ['Alder', 'alder'],
    ['Birch', 'birch'],
  ] as const) {
    const path = join(data, 'racks', folder);
    await mkdir(path, { recursive: true, mode: 0o700 });
    const id = rackIdSchema.parse(randomUUID());
    rackIds.push(id);
    const address = keptAddress({ kind: 'folder', path });
    await markRack(storeOf({ address }), id);
    await db.insert(racks).values({ id, name, address, reserve: 1_000_000_000 });
  }
  // The demo's sign-ins, printed by the start command and told in the README.
  const wren = await addTechnician(db, {
    login: 'wren',
    name: 'Wren Gorsegate',
    password: 'lantern-steps-four',
  });
  await addTechnician(db, { login: 'joss', name: 'Joss Kelholt', password: 'lantern-steps-five' });
  if (values.past) {
    await loadPast(db, wren, rackIds);
    for (const id of rackIds) await loadRackDays(db, id, new Date());
  }
  await makeMissingRows(db);
}
await connection.close();
