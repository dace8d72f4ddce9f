import { rackIdSchema, usualBenchRules, type RackKind } from '@bright-cellar/core';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { randomUUID } from 'node:crypto';
import { parseArgs } from 'node:util';
import { markRack } from '@bright-cellar/archive';
import { count, eq } from 'drizzle-orm';
import { makeMissingRows } from '../archives/index.js';
import { prepared } from '../prepare.js';
import { racks, technicians } from '../database/schema.js';
import { keptAddress, storeOf } from '../racks/index.js';
import { addTechnician } from '../people/index.js';
import { begin } from '../settings/index.js';
import { loadPast, type PastRack } from './past.js';
import { loadRackDays } from './rack-days.js';
import { loadWear } from './wear.js';

/** Brings the database up to date and, where nothing is in it yet, loads the demo's made-up shop. */
const { values } = parseArgs({
  options: { data: { type: 'string' }, past: { type: 'boolean', default: false } },
});
const data = values.data;
if (!data) throw new Error('--data DIR is needed');
const given = data;
const fixed = [
  ['Alder', 'fixed', 'racks/alder'],
  ['Birch', 'fixed', 'racks/birch'],
] as const;
const ordinal = ['First', 'Second', 'Third', 'Fourth', 'Fifth', 'Sixth'];
const DAY_MS = 86_400_000;
const { connection } = await prepared(process.env);
const { db } = connection;

const [known] = await db.select({ count: count() }).from(technicians);
if (known?.count === 0) {
  const here: PastRack[] = [];
  for (const [name, kind, folder] of fixed) here.push(await addRack(name, kind, folder, folder));
  if (values.past) here.push(await addRack('Cedar', 'drive', 'drives/cedar', 'drives/cedar'));
  // The demo's sign-ins, printed by the start command and told in the README.
  const wren = await addTechnician(db, {
    login: 'wren',
    name: 'Wren Gorsegate',
    password: 'lantern-steps-four',
    role: 'keeper',
  });
  await addTechnician(db, {
    ...{ login: 'joss', name: 'Joss Kelholt', password: 'lantern-steps-five' },
    role: 'technician',
  });
  await begin(db, 'bench', { ...usualBenchRules, places: [`${join(given, 'drives')}/*`] });
  await begin(db, 'shop', {
    name: 'Harrow Street Repairs',
    address: '14 Harrow Street\nNetherby Quay\n+44 7700 900100',
  });
  if (values.past) {
    const now = new Date();
    const away: PastRack[] = [];
    for (const n of [1, 2, 3, 4, 5, 6]) {
      // The tray takes it out of its drawer, and puts it in again.
      away.push(await addRack(`Drive ${n}`, 'drive', `drives/drive-${n}`, `drawer/drive-${n}`));
    }
    await loadPast(db, wren, { here, away }, now);
    for (const { id } of here) await loadRackDays(db, id, now);
    await loadWear(db, wren, here, now);
    for (const [n, { id }] of away.entries()) {
      const seenAt = new Date(now.getTime() - (20 + n * 40) * DAY_MS);
      const note = `${ordinal[n] ?? ''} drawer of the steel cabinet`;
      await db.update(racks).set({ seenAt, note }).where(eq(racks.id, id));
    }
  }
  await makeMissingRows(db);
}
await connection.close();

/** A rack of the demo. @param at where its folder lies now, which is not where it is looked for while it is away */
async function addRack(
  name: string,
  kind: RackKind,
  folder: string,
  at: string,
): Promise<PastRack> {
  const path = join(given, at);
  await mkdir(path, { recursive: true, mode: 0o700 });
  const id = rackIdSchema.parse(randomUUID());
  const store = storeOf({ address: keptAddress({ kind: 'folder', path }) });
  await markRack(store, id);
  const address = keptAddress({ kind: 'folder', path: join(given, folder) });
  await db.insert(racks).values({ id, name, kind, address, reserve: 1_000_000_000 });
  return { id, store };
}
