import fc from 'fast-check';
import { expect, test } from 'vitest';
import { savesKept } from './saves.js';

const NOW = Date.parse('2026-11-28T03:00:00Z');
const daysAgo = (n: number) => new Date(NOW - n * 86_400_000);

test('a year of nights: a week of days, two months of weeks, a year of months', () => {
  const kept = savesKept(Array.from({ length: 400 }, (_, n) => daysAgo(n)));
  const ages = [...kept].map((time) => (NOW - time) / 86_400_000).sort((a, b) => a - b);
  expect(ages.slice(0, 7)).toEqual([0, 1, 2, 3, 4, 5, 6]);
  expect(ages.at(-1)).toBeGreaterThan(300);
  expect(ages.length).toBeLessThanOrEqual(7 + 8 + 12);
});

test('three in one day: the last of them', () => {
  const times = ['01:00', '02:00', '03:00'].map((time) => new Date(`2026-11-28T${time}:00Z`));
  expect([...savesKept(times)]).toEqual([NOW]);
});

const someTimes = fc.array(fc.integer({ min: 0, max: 800 * 86_400_000 }), { maxLength: 80 });
test('the newest is kept, whatever there is; what was kept once is kept again', () => {
  fc.assert(
    fc.property(someTimes, (ages) => {
      const times = ages.map((age) => new Date(NOW - age));
      const kept = savesKept(times);
      if (times.length > 0) expect(kept.has(Math.max(...times.map(Number)))).toBe(true);
      expect(kept.size).toBeLessThanOrEqual(27);
      expect(savesKept([...kept].map((time) => new Date(time)))).toEqual(kept);
    }),
  );
});
