import { expect, test } from 'vitest';
import { healthOf, type Reading } from './health.js';

const at = (rate: number, change: Partial<Reading> = {}): Reading => ({
  ...{ outcome: 'whole', readBytes: 1e9, durationMs: (1e9 / rate) * 1000 },
  ...change,
});
const times = (n: number, rate: number) => Array.from({ length: n }, () => at(rate));

test('a rack that reads as it did is well, and too few readings say nothing of its speed', () => {
  expect(healthOf([])).toEqual({ ailing: false, sentence: null, rate: null, rateBefore: null });
  expect(healthOf(times(12, 1e8))).toMatchObject({ ailing: false, rate: 1e8, rateBefore: 1e8 });
  expect(healthOf([...times(2, 1e7), ...times(3, 1e8)])).toMatchObject({ ailing: false });
});

test('one that reads at less than half its speed ails, with the figures; one slow reading is an accident', () => {
  const ailing = healthOf([...times(5, 40e6), ...times(10, 1e8)]);
  expect(ailing).toMatchObject({ ailing: true, rate: 40e6, rateBefore: 1e8 });
  expect(ailing.sentence).toMatch(/40 MB\/s, and read at 100 MB\/s before/);
  expect(healthOf([at(1e6), ...times(12, 1e8)]).ailing).toBe(false);
  expect(healthOf([...times(5, 51e6), ...times(10, 1e8)]).ailing).toBe(false);
});

test('little archives say nothing of its speed', () => {
  const little = Array.from({ length: 5 }, () => at(1e6, { readBytes: 1e6 }));
  expect(healthOf([...little, ...times(10, 1e8)]).ailing).toBe(false);
});

test('damage that was found lately makes it ail', () => {
  const damaged = at(1e8, { outcome: 'damaged' });
  expect(healthOf([damaged, ...times(3, 1e8)]).sentence).toMatch(/^One look of the last 20/);
  expect(healthOf([...times(20, 1e8), damaged]).ailing).toBe(false);
});
