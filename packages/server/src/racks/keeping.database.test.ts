import { mkdir, mkdtemp, readdir, realpath, rename, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { tryStore } from '@bright-cellar/archive';
import { Failure, problemOf, rackIdSchema } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, describe, expect, test } from 'vitest';
import { archiveRows, audit, copies, outbox, rackDays, racks } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { makeLog } from '../log.js';
import type { Context } from '../shop.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newRackId } from '../testing/ids.js';
import { addRack, changeRack, rackPlaces, retireRack, tryRack } from './keeping.js';
import { rackInFull } from './in-full.js';
import { allElevations, copiesOn } from './on-rack.js';
import { refreshArchivesOn } from './recount.js';
import { findRacks, listRacks, rackWithRoom } from './racks.js';
import { folderStore } from './stores.js';
import { RackWatch } from './watch.js';

/** Racks as a shop adds, changes and retires them, on real folders. */

const { db, acting, clock, addTicket, addArchive, addRack: addRackRow } = await testCatalogue();
/** The work process, without a process. */
const orders = {
  ask: (_: unknown, { address }: { address: { path: string } }) =>
    tryStore(folderStore(address.path), 1_000_000),
};
const context = { ...acting, orders } as unknown as Context;
const root = await realpath(await mkdtemp(join(tmpdir(), 'cellar-racks-')));
afterAll(() => rm(root, { recursive: true }));
const drives = join(root, 'drives');
const watch = new RackWatch(acting, makeLog('server', 'silent'), () => Promise.resolve([drives]));

let made = 0;
/** A folder with nothing in it, where drives appear or elsewhere. */
async function folder(below = root): Promise<string> {
  const path = join(below, `place ${(made += 1)}`);
  await mkdir(path, { recursive: true });
  return path;
}
const at = (path: string) => ({ site: { kind: 'folder' as const, path }, secret: '' });
const rules = (name: string) => ({
  ...{ name, note: '', reserve: 0, offPremises: false },
  kind: 'fixed' as const,
});
const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'nothing',
    (error: unknown) => problemOf(error).code,
  );
const idOf = ({ id }: { id: string }) => rackIdSchema.parse(id);

beforeEach(async () => {
  await db.delete(rackDays);
  await db.delete(outbox);
});

describe('a new rack', () => {
  test('is tried before, without anything left there', async () => {
    const path = await folder();
    const tried = await tryRack(context, at(path));
    expect(tried).toMatchObject({ isSound: true, keepsFirst: true });
    expect(Math.min(tried.free, tried.writeRate, tried.readRate)).toBeGreaterThan(0);
    expect(await readdir(path)).toEqual([]);
  });

  test('is here at once with its room, has a number for its label, and is on record', async () => {
    const path = await folder();
    const rack = await addRack(context, { ...at(path), ...rules('Maple'), reserve: 1000 });
    expect(rack).toMatchObject({ name: 'Maple', present: true, reserve: 1000, mounted: path });
    expect(rack.free).toBeGreaterThan(0);
    expect(await folderStore(path).identity()).toBe(rack.id);
    expect((await findRacks(db, rack.code)).map(({ name }) => name)).toEqual(['Maple']);
    expect((await findRacks(db, 'mapl')).map(({ name }) => name)).toEqual(['Maple']);
    expect((await db.select().from(audit)).at(-1)?.what).toBe('The rack Maple was added.');
  });

  test.each([
    ['a path that is none', async () => 'drives/x', 'input-not-valid'],
    ['a folder that is not there', async () => join(root, 'nowhere'), 'input-not-valid'],
    [
      'a rack that is in use',
      async () =>
        (await addRack(context, { ...at(await folder()), ...rules('Elm') })).mounted ?? '',
      'already-exists',
    ],
    [
      'a folder inside another rack',
      async () => {
        const { mounted } = await addRack(context, { ...at(await folder()), ...rules('Oak') });
        return folder(mounted ?? '');
      },
      'already-exists',
    ],
    [
      'one that another rack lies in',
      async () => {
        const outer = await folder();
        await addRack(context, { ...at(await folder(outer)), ...rules('Ash') });
        return outer;
      },
      'already-exists',
    ],
  ])('is not made of %s', async (_, path, refused) => {
    const wanted = await path();
    const before = (await listRacks(db)).length;
    const adding = addRack(context, { ...at(wanted), ...rules(`New ${made}`) });
    expect(await codeOf(adding)).toBe(refused);
    expect(await codeOf(tryRack(context, at(wanted)))).toBe(refused);
    expect(await listRacks(db)).toHaveLength(before);
  });

  test('does not take the name of another, nor its place in the catalogue', async () => {
    const first = await addRack(context, { ...at(await folder()), ...rules('Hazel') });
    const second = addRack(context, { ...at(await folder()), ...rules('Hazel') });
    expect(await codeOf(second)).toBe('already-exists');
    expect((await rackInFull(db, idOf(first), clock.now())).rack).toMatchObject({
      ...{ name: 'Hazel', mounted: first.mounted },
    });
    const other = await addRack(context, { ...at(await folder()), ...rules('Holly') });
    const renamed = changeRack(context, idOf(other), { ...rules('Hazel') });
    expect(await codeOf(renamed)).toBe('already-exists');
  });
});

test('its name, note and reserve are changed, and the reserve holds', async () => {
  const rack = await addRack(context, { ...at(await folder()), ...rules('Beech') });
  const changed = await changeRack(context, idOf(rack), {
    ...{ name: 'Copper beech', note: 'top shelf', reserve: rack.capacity, offPremises: true },
  });
  expect(changed).toMatchObject({ name: 'Copper beech', note: 'top shelf', id: rack.id });
  expect(await codeOf(rackWithRoom(db, idOf(rack), 1))).toBe('rack-full');
  expect(await codeOf(changeRack(context, newRackId(), rules('Nobody')))).toBe('not-found');
});

describe('a rack that is put out of use', () => {
  test('is nowhere to be chosen, and is back with what lies there when it is added again', async () => {
    const path = await folder();
    const rack = await addRack(context, { ...at(path), ...rules('Larch') });
    const archive = await addArchive(await addTicket(), idOf(rack));
    expect(await codeOf(retireRack(context, idOf(rack), ''))).toBe('input-not-valid');
    expect(await codeOf(retireRack(context, idOf(rack), 'larch'))).toBe('input-not-valid');
    await retireRack(context, idOf(rack), 'Larch');
    expect((await listRacks(db)).map(({ name }) => name)).not.toContain('Larch');
    expect(await codeOf(rackWithRoom(db, idOf(rack), 1))).toBe('not-found');
    await watch.look();
    expect((await db.select().from(racks)).find(({ id }) => id === rack.id)?.present).toBe(false);
    // Its label still says what it is.
    expect((await findRacks(db, rack.code))[0]?.retiredAt).toBe(clock.now().toISOString());
    const again = await addRack(context, { ...at(path), ...rules('Larch again') });
    expect(again).toMatchObject({ id: rack.id, archives: 1, code: rack.code });
    const { rows } = await copiesOn(db, idOf(again), { sort: 'stored', order: 'desc', after: '' });
    expect(rows.map(({ archiveId }) => archiveId)).toEqual([archive.archive]);
  });

  test('needs no word where nothing lies there', async () => {
    const rack = await addRack(context, { ...at(await folder()), ...rules('Yew') });
    await retireRack(context, idOf(rack), '');
    expect((await listRacks(db)).map(({ name }) => name)).not.toContain('Yew');
  });
});

describe('a drive', () => {
  test('is offered where it is mounted until it is a rack, and is found again wherever it is mounted next', async () => {
    const path = await folder(drives);
    // A medium of its own: here, one that another shop used.
    await writeFile(
      join(path, '.bright-cellar-rack'),
      JSON.stringify({ format: 'bright-cellar-rack', version: 1, rack: newRackId() }),
    );
    expect(await rackPlaces(context, [drives])).toMatchObject([
      { path, marked: 'a rack of another shop' },
    ]);
    const rack = await addRack(context, { ...at(path), ...rules('Rowan'), kind: 'drive' });
    expect(await rackPlaces(context, [drives])).toEqual([]);
    await watch.look();
    const elsewhere = join(drives, 'wren', 'stick');
    await mkdir(join(drives, 'wren'));
    await rename(path, elsewhere);
    await watch.look();
    const found = (await listRacks(db)).find(({ id }) => id === rack.id);
    expect(found).toMatchObject({ present: true, mounted: elsewhere });
    // Carried away: known, with what it had, and not here.
    await rename(elsewhere, join(root, 'in a bag'));
    clock.forward(60_000);
    await watch.look();
    expect((await listRacks(db)).find(({ id }) => id === rack.id)).toMatchObject({
      ...{ present: false, capacity: rack.capacity, mounted: elsewhere },
    });
  });

  test('does not take the place of the one that is here, whatever it says that it is', async () => {
    const path = await folder(drives);
    const rack = await addRack(context, { ...at(path), ...rules('Cedar'), kind: 'drive' });
    await watch.look();
    const twin = await folder(drives);
    await writeFile(
      join(twin, '.bright-cellar-rack'),
      JSON.stringify({ format: 'bright-cellar-rack', version: 1, rack: rack.id }),
    );
    await watch.look();
    expect((await listRacks(db)).find(({ id }) => id === rack.id)?.mounted).toBe(path);
  });
});

test('each day’s room is kept, and says when the rack will be full', async () => {
  const rack = await addRack(context, { ...at(await folder()), ...rules('Willow') });
  await watch.look();
  clock.forward(90_000);
  await watch.look();
  const now = await rackInFull(db, idOf(rack), clock.now());
  expect(now.days).toHaveLength(1);
  expect(now.elevation.full).toBeNull();
  const free = now.days[0]?.free ?? 0;
  const today = Math.floor(clock.now().getTime() / 86_400_000);
  // Ten days before it was emptier, by the same amount each day.
  const step = Math.ceil(free / 20);
  await db.insert(rackDays).values(
    Array.from({ length: 10 }, (_, i) => ({
      ...{ rackId: idOf(rack), day: today - i - 1, free: free + (i + 1) * step, storedBytes: 0 },
    })),
  );
  const { days, elevation } = await rackInFull(db, idOf(rack), clock.now());
  expect(days).toHaveLength(11);
  expect(days[0]?.day).toBe('2026-11-14');
  const day = (n: number) => new Date((today + n) * 86_400_000).toISOString().slice(0, 10);
  expect(elevation.full).toEqual({ early: day(20), late: day(20) });
});

test('a rack is drawn of its largest archives, and of what all others come to', async () => {
  const rack = await addRack(context, { ...at(await folder()), ...rules('Poplar') });
  const ticket = await addTicket();
  for (let n = 1; n <= 50; n++) await addArchive(ticket, idOf(rack), { storedBytes: n });
  const drawn = (await allElevations(db, clock.now())).find(({ rackId }) => rackId === rack.id);
  expect(drawn?.courses).toHaveLength(48);
  expect(drawn?.courses[0]).toMatchObject({ storedBytes: 50, state: 'unknown' });
  expect(drawn?.others).toEqual({ archives: 2, storedBytes: 3 });
});

test('its ledger is paged in either order, and no row is skipped or told twice', async () => {
  const rack = await addRack(context, { ...at(await folder()), ...rules('Aspen') });
  const ticket = await addTicket();
  for (let n = 0; n < 130; n++) await addArchive(ticket, idOf(rack), { storedBytes: n % 7 });
  for (const order of ['asc', 'desc'] as const) {
    for (const sort of ['stored'] as const) {
      const seen: string[] = [];
      const sizes: number[] = [];
      let after: string | null = '';
      while (after !== null) {
        const page = await copiesOn(db, idOf(rack), { sort, order, after });
        expect(page.total).toBe(130);
        seen.push(...page.rows.map(({ archiveId }) => archiveId));
        sizes.push(...page.rows.map(({ storedBytes }) => storedBytes));
        after = page.next;
      }
      expect(new Set(seen).size).toBe(130);
      const sorted = [...sizes].sort((a, b) => (order === 'asc' ? a - b : b - a));
      expect(sizes).toEqual(sorted);
    }
  }
});

test('what a medium refuses is said as it is', async () => {
  const broken = {
    ...context,
    orders: { ask: () => Promise.reject(new Failure('rack-full')) },
  } as unknown as Context;
  expect(await codeOf(tryRack(broken, at(await folder())))).toBe('rack-full');
});

test('what lies on a rack that goes out of use counts no more, also where the archive changes at the same moment', async () => {
  const rack = await addRackRow();
  const { archive, copy } = await addArchive(await addTicket(), rack);
  let tries = 0;
  await unitOfWork(acting, async (unit) => {
    // From its first question on, a transaction sees what was there then.
    await unit.tx.select().from(racks);
    tries += 1;
    if (tries === 1)
      await unitOfWork(acting, async (other) => {
        await other.tx.update(racks).set({ retiredAt: clock.now() }).where(eq(racks.id, rack));
        await refreshArchivesOn(other.tx, rack);
      });
    await unit.tx.update(copies).set({ storedBytes: 700 }).where(eq(copies.id, copy));
    unit.changed('archive', archive);
  });
  const [row] = await db.select().from(archiveRows).where(eq(archiveRows.archiveId, archive));
  expect(row).toMatchObject({ goodCopies: 0, storedBytes: 700 });
});
