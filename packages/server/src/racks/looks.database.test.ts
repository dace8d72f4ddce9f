import { randomUUID } from 'node:crypto';
import type { RackId } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { looks } from '../database/schema.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newCopyId } from '../testing/ids.js';
import { ailingAmong, ailingOf } from './looks.js';

const { db, actor, addRack } = await testCatalogue();

/** Looks at copies on a rack, the oldest first, a minute apart. */
async function looked(rackId: RackId, all: Partial<typeof looks.$inferInsert>[]): Promise<void> {
  await db.insert(looks).values(
    all.map((one, n) => ({
      ...{ id: randomUUID(), copyId: newCopyId(), rackId, operationId: randomUUID() },
      ...{ at: new Date(Date.UTC(2026, 5, 1, 9, n)), by: actor.technicianId },
      ...{ level: 'bytes' as const, outcome: 'whole' as const, what: '' },
      ...{ readBytes: 100e6, durationMs: 1_000, ...one },
    })),
  );
}

test('each of several racks is judged by its own last looks', async () => {
  const [well, damaged, mended, slower, never] = [
    ...[await addRack(), await addRack(), await addRack(), await addRack(), await addRack()],
  ] as const;
  const good = Array.from({ length: 12 }, () => ({}));
  await looked(well, good);
  await looked(damaged, [...good, { outcome: 'damaged' }]);
  // So long ago that it no longer counts, and of what a password was needed for nothing is judged.
  await looked(mended, [
    { outcome: 'damaged' },
    ...good,
    ...good,
    { level: 'full', durationMs: 1e6 },
  ]);
  await looked(slower, [...good, ...Array.from({ length: 5 }, () => ({ durationMs: 9_000 }))]);
  const all = [well, damaged, mended, slower, never];
  const found = await ailingOf(db, all);
  expect(found.get(damaged)).toMatch(/^One look of the last 20 found damage here\./);
  expect(found.get(slower)).toMatch(/^It reads at 11 MB\/s, and read at 100 MB\/s before\./);
  expect([...found.keys()].toSorted()).toEqual([damaged, slower].toSorted());
  for (const id of all)
    expect(await ailingOf(db, [id])).toEqual(new Map([...found].filter(([one]) => one === id)));
  expect(await ailingOf(db, [])).toEqual(new Map());
  // What is away is not asked about.
  const seen = all.map((id) => ({ id, present: id !== slower }));
  expect(await ailingAmong(db, seen)).toEqual(new Set([damaged]));
});
