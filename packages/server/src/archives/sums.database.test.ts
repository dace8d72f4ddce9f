import { count, eq, sum } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { archiveRows, archives, archiveSums, copies } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { testCatalogue } from '../testing/catalogue.js';
import { summariseArchives } from './list.js';
import { makeMissingRows } from './rows.js';

const { db, acting, clock, addTicket, addRack, addArchive, addProof } = await testCatalogue();
const alder = await addRack('Alder');
const ticket = await addTicket();

/** Counted row by row, as nobody does who waits for a page. */
async function counted() {
  const found = await db
    .select({
      proof: archiveRows.proof,
      archives: count(),
      storedBytes: sum(archiveRows.storedBytes).mapWith(Number),
    })
    .from(archiveRows)
    .groupBy(archiveRows.proof)
    .orderBy(archiveRows.proof);
  return found;
}
const kept = async () =>
  (await db.select().from(archiveSums).orderBy(archiveSums.proof)).filter((one) => one.archives);

type Added = Awaited<ReturnType<typeof addArchive>>;
const grow = ({ archive, copy }: Added, storedBytes: number) =>
  unitOfWork(acting, async (unit) => {
    await unit.tx.update(copies).set({ storedBytes }).where(eq(copies.id, copy));
    unit.changed('archive', archive);
  });
const destroy = ({ archive }: Added) =>
  unitOfWork(acting, async (unit) => {
    await unit.tx.update(archives).set({ disposedAt: clock.now() }).where(eq(archives.id, archive));
    unit.changed('archive', archive);
  });

test('what comes, grows, is proven or damaged and goes is in the sums, however much of it at once', async () => {
  const all = await Promise.all(
    Array.from({ length: 12 }, (_, n) => addArchive(ticket, alder, { storedBytes: 1000 + n })),
  );
  expect(await kept()).toEqual(await counted());
  await Promise.all(
    all.map(async (one, n) => {
      if (n % 2 === 0) await addProof(one, 'whole');
      if (n % 3 === 0) await grow(one, 50 * n);
      if (n % 4 === 0) await addProof(one, 'damaged');
      if (n % 5 === 0) await destroy(one);
    }),
  );
  expect((await counted()).map((one) => one.proof)).toEqual(['damaged', 'proven', 'unproven']);
  expect(await kept()).toEqual(await counted());
  expect(await summariseArchives(db)).toMatchObject({ archives: 9, unproven: 7 });
});

test('the same archive changed by several at once counts once', async () => {
  const one = await addArchive(ticket, alder);
  await Promise.all([1, 2, 3, 4, 5].map((n) => grow(one, 10_000 * n)));
  expect(await kept()).toEqual(await counted());
  await Promise.all([destroy(one), destroy(one)]);
  expect(await kept()).toEqual(await counted());
});

test('what two find of one archive at the same moment is both in its row', async () => {
  const one = await addArchive(ticket, alder);
  let tries = 0;
  await unitOfWork(acting, async (unit) => {
    // From its first question on, a transaction sees what was there then.
    await unit.tx.select().from(archives);
    tries += 1;
    if (tries === 1) await addProof(one, 'damaged');
    await unit.tx.update(copies).set({ storedBytes: 700 }).where(eq(copies.id, one.copy));
    unit.changed('archive', one.archive);
  });
  expect(tries).toBe(2);
  const [row] = await db.select().from(archiveRows).where(eq(archiveRows.archiveId, one.archive));
  expect(row).toMatchObject({ proof: 'damaged', storedBytes: 700 });
  expect(await kept()).toEqual(await counted());
});

test('where nobody kept them, they are added up', async () => {
  await db.update(archiveSums).set({ archives: 3, storedBytes: 5 });
  await makeMissingRows(db);
  expect(await kept()).toEqual(await counted());
});
