import { wholeStock } from '@bright-cellar/core/placement';
import type { RackId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { beforeAll, expect, test } from 'vitest';
import { copies, racks } from '../database/schema.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newCopyId, newRackId } from '../testing/ids.js';
import { lyingOf, stockPage, stockRacks } from './stock.js';

const { db, clock, addTicket, addRack, addArchive } = await testCatalogue();
const COUNT = 430;
const names = ['Alder', 'Birch', 'Cedar', 'Gone'] as const;
const rackOf = Object.fromEntries(names.map((name) => [name, newRackId()])) as Record<
  (typeof names)[number],
  RackId
>;
const all: Awaited<ReturnType<typeof addArchive>>[] = [];

/** Another copy of an archive. */
async function addCopy({ archive }: (typeof all)[number], rackId: RackId, storedBytes: number) {
  await db.insert(copies).values({
    ...{ id: newCopyId(), archiveId: archive, rackId, folder: archive, storedBytes },
    ...{ generation: 1, createdAt: clock.now(), state: 'damaged' },
  });
}

beforeAll(async () => {
  for (const name of names) rackOf[name] = await addRack(name);
  const ticket = await addTicket({ customer: 'Ana Reed', device: 'Her phone' });
  for (let n = 0; n < COUNT; n++) {
    // Many are of one size.
    const storedBytes = 1000 + (n % 7);
    const made = await addArchive(ticket, n % 2 === 0 ? rackOf.Alder : rackOf.Birch, {
      storedBytes,
    });
    all.push(made);
    if (n % 5 === 0) await addCopy(made, rackOf.Cedar, storedBytes);
    if (n % 10 === 0) await addCopy(made, n % 2 === 0 ? rackOf.Birch : rackOf.Alder, 500);
    if (n % 50 === 0) await addCopy(made, rackOf.Gone, storedBytes);
  }
  await db.update(racks).set({ retiredAt: clock.now() }).where(eq(racks.id, rackOf.Gone));
});

test('page by page every archive on these racks is told, the largest first, with all its copies on racks in use', async () => {
  const found = await stockRacks(db);
  expect(found.racks.map(({ name, here }) => [name, here])).toEqual([
    ...[
      ['Alder', false],
      ['Birch', false],
      ['Cedar', false],
    ],
  ]);
  const here = found.racks.map((rack) => ({ ...rack, here: rack.name !== 'Cedar' }));
  const told: number[] = [];
  /** Of each archive that was not told before, by page. */
  const sizes: number[][] = [];
  const known = new Set<string>();
  const stock = await wholeStock({ ...found, racks: here }, undefined, async (on, after) => {
    const page = await stockPage(db, { on, after });
    const fresh = page.archives.filter(({ id }) => !known.has(id));
    for (const { id } of fresh) known.add(id);
    sizes.push(
      fresh.map(({ id }) =>
        Math.max(...page.copies.filter((c) => c.archiveId === id).map(({ bytes }) => bytes)),
      ),
    );
    told.push(page.archives.length);
    return page;
  });
  expect(told.length).toBe(3);
  expect(Math.max(...told)).toBeLessThanOrEqual(200);
  const [first = [], second = []] = sizes;
  expect(Math.min(...first)).toBeGreaterThanOrEqual(Math.max(...second));
  expect(Math.min(...first)).toBeGreaterThan(Math.min(...second));
  expect(new Set(stock.archives.map(({ id }) => id))).toEqual(
    new Set(all.map((one) => one.archive)),
  );
  expect(stock.copies).toHaveLength(COUNT + COUNT / 5 + COUNT / 10);
  expect(stock.copies.filter(({ damaged }) => damaged)).toHaveLength(COUNT / 5 + COUNT / 10);
  expect(stock.archives[0]).toMatchObject({ customerName: 'Ana Reed', deviceName: 'Her phone' });
});

test('what lies on a rack that is named is told too, and nothing of another', async () => {
  const on = [rackOf.Cedar];
  const { archives, next } = await stockPage(db, { on, after: '' });
  expect(archives).toHaveLength(COUNT / 5);
  expect(next).toBeNull();
  expect(await stockPage(db, { on: [newRackId()], after: '' })).toMatchObject({ archives: [] });
});

test('moves are judged by where their own archives lie, whatever else there is', async () => {
  const [one, , , , , other] = all;
  if (!one || !other) throw new Error('none');
  const lying = await lyingOf(db, [one.archive, other.archive]);
  expect(lying.racks).toHaveLength(3);
  expect(lying.copies.map(({ archiveId }) => archiveId).sort()).toEqual(
    [one, one, one, other, other].map(({ archive }) => archive).sort(),
  );
});
