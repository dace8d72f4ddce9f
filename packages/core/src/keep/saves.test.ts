import fc from 'fast-check';
import { expect, test } from 'vitest';
import { savesKept, type SaveMade } from './saves.js';

const DAY_MS = 86_400_000;
const NOW = Date.parse('2026-11-28T03:00:00Z');
const save = (daysAgo: number, migrations = 28): SaveMade => ({
  ...{ at: NOW - daysAgo * DAY_MS, migrations },
});

test('a year of nights: a week of days, two months of weeks, a year of months', () => {
  const kept = savesKept(Array.from({ length: 400 }, (_, n) => save(n)));
  const ages = [...kept].map(({ at }) => (NOW - at) / DAY_MS).sort((a, b) => a - b);
  expect(ages.slice(0, 7)).toEqual([0, 1, 2, 3, 4, 5, 6]);
  expect(ages.at(-1)).toBeGreaterThan(300);
  expect(ages.length).toBeLessThanOrEqual(7 + 8 + 12);
});

test('three in one day: the last of them, and what was there before an upgrade', () => {
  const before = save(0.03, 27);
  const now = save(0);
  expect(savesKept([save(0.02), before, save(0.01), now])).toEqual(new Set([now, before]));
});

const someSaves = fc.array(
  fc.record({
    at: fc.integer({ min: 0, max: 800 * DAY_MS }).map((age) => NOW - age),
    migrations: fc.integer({ min: 20, max: 28 }),
  }),
  { maxLength: 80 },
);
test('the newest is kept, whatever there is; what was kept once is kept again', () => {
  fc.assert(
    fc.property(someSaves, (saves) => {
      const kept = savesKept(saves);
      const newest = Math.max(...saves.map(({ at }) => at));
      expect(saves.length === 0 || [...kept].some(({ at }) => at === newest)).toBe(true);
      expect(kept.size).toBeLessThanOrEqual(30);
      expect(savesKept([...kept])).toEqual(kept);
    }),
  );
});
