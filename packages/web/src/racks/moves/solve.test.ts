import loadHighs from 'highs';
import { archiveIdSchema, copyIdSchema, deviceIdSchema, rackIdSchema } from '@bright-cellar/core';
import {
  judgeMoves,
  planMoves,
  type MovePlan,
  type Stock,
  type Wish,
} from '@bright-cellar/core/placement';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { solverOf } from './solve.js';

const uuid = (kind: number, n: number) =>
  `0000000${kind}-0000-4000-8000-${n.toString(16).padStart(12, '0')}`;
const rackId = (n: number) => rackIdSchema.parse(uuid(1, n));
const rate = { low: 50e6, high: 100e6 };

/** Archives of 10 to 200 GB in one or two copies on racks, each so full. */
function stockOf(archives: number, racks: number, seed: number, fullness: number): Stock {
  let state = seed;
  const random = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
  const copies: Stock['copies'] = [];
  for (let n = 0; n < archives; n++) {
    const bytes = Math.round((10 + 190 * random() ** 2) * 1e9);
    const first = Math.floor(random() * racks);
    const second = Math.floor(random() * racks);
    for (const on of new Set(random() < 0.3 ? [first, second] : [first])) {
      copies.push({
        ...{ id: copyIdSchema.parse(uuid(2, copies.length)), bytes, damaged: false },
        ...{ archiveId: archiveIdSchema.parse(uuid(3, n)), rackId: rackId(on) },
      });
    }
  }
  return {
    racks: Array.from({ length: racks }, (_, n) => {
      const load = copies.filter((c) => c.rackId === rackId(n)).reduce((s, c) => s + c.bytes, 0);
      return {
        ...{
          id: rackId(n),
          name: `Rack ${n}`,
          here: true,
          offPremises: false,
          ailing: false,
          reserve: 50e9,
        },
        // Every third is emptier than the others.
        ...{
          capacity: 1e13,
          free: Math.round(50e9 + load * (1 / fullness - 1) * (n % 3 === 1 ? 4 : 1)),
        },
        ...{ reads: rate, writes: rate },
      };
    }),
    copies,
    archives: Array.from({ length: archives }, (_, n) => ({
      ...{ id: archiveIdSchema.parse(uuid(3, n)), deviceId: deviceIdSchema.parse(uuid(4, n)) },
      ...{ customerId: uuid(5, n % 50), deviceName: 'A phone', customerName: 'Somebody' },
      ...{ ticketNumber: '100001', takenAt: `2026-0${1 + (n % 9)}-01T00:00:00.000Z` },
    })),
    keepsOffPremises: false,
  };
}

const wishes: Wish[] = [
  { kind: 'empty', rackId: rackId(0) },
  { kind: 'room', rackId: rackId(0), bytes: 400e9 },
  { kind: 'customer', customerId: uuid(5, 7), rackId: rackId(1) },
  { kind: 'spread', rackIds: [rackId(0), rackId(1)] },
];

const costOf = (found: ReturnType<typeof planMoves>): MovePlan | null =>
  'why' in found ? null : found;

test('on racks that are nearly full, plans by the heuristic are within two per cent of the solver’s optimum', async () => {
  const solve = solverOf(await loadHighs());
  let compared = 0;
  for (const [archives, racks, fullness] of [
    [60, 4, 0.85],
    [120, 5, 0.9],
    [400, 8, 0.95],
  ] as const) {
    for (const seed of [12]) {
      const stock = stockOf(archives, racks, seed, fullness);
      for (const wish of wishes) {
        const alone = costOf(planMoves(stock, wish));
        const solved = costOf(planMoves(stock, wish, [], solve));
        if (alone) expect(judgeMoves(stock, alone.moves)).toBeNull();
        if (!solved) continue;
        expect(judgeMoves(stock, solved.moves)).toBeNull();
        expect(alone, `${JSON.stringify(wish)} of ${archives}, ${seed}`).not.toBeNull();
        expect(alone?.bytes ?? Infinity).toBeLessThanOrEqual(solved.bytes * 1.02);
        compared += 1;
      }
    }
  }
  expect(compared).toBeGreaterThan(8);
});

test('what the solver finds is never dearer than what is found without it, and keeps every promise', async () => {
  const solve = solverOf(await loadHighs());
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.constantFrom(...wishes.slice(0, 3)),
      fc.double({ min: 0.8, max: 0.99, noNaN: true }),
      (seed, wish, fullness) => {
        const stock = stockOf(30, 4, seed, fullness);
        const alone = costOf(planMoves(stock, wish));
        const solved = costOf(planMoves(stock, wish, [], solve));
        if (alone) expect(solved?.bytes).toBeLessThanOrEqual(alone.bytes);
        if (solved) expect(judgeMoves(stock, solved.moves)).toBeNull();
      },
    ),
    { numRuns: 12 },
  );
});
