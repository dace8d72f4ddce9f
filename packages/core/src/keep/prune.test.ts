import fc from 'fast-check';
import { expect, test } from 'vitest';
import { mayGo } from './prune.js';

const now = new Date('2026-11-27T12:00:00Z');
const aged = (id: string, days: number, isProven = false) => ({
  ...{ id, isProven },
  takenAt: new Date(now.getTime() - days * 86_400_000),
});
const year = [aged('a', 1), aged('b', 30), aged('c', 90), aged('d', 200), aged('e', 400)];

test('what is not among the newest may go, and what is older where days are said', () => {
  expect(mayGo(year, { newest: 2, days: 0 }, now)).toEqual(['c', 'd', 'e']);
  expect(mayGo(year, { newest: 2, days: 180 }, now)).toEqual(['d', 'e']);
  expect(mayGo(year, { newest: 9, days: 0 }, now)).toEqual([]);
});

test('never the last that is proven, however old', () => {
  const proven = year.map((backup) => ({ ...backup, isProven: backup.id >= 'd' }));
  expect(mayGo(proven, { newest: 1, days: 0 }, now)).toEqual(['b', 'c', 'e']);
});

test('whatever the rule, the newest stays, and so does a proof', () => {
  const backups = fc.array(
    fc.record({ days: fc.integer({ min: 0, max: 999 }), isProven: fc.boolean() }),
    { minLength: 1, maxLength: 12 },
  );
  fc.assert(
    fc.property(backups, fc.nat(4), fc.nat(500), (some, newest, days) => {
      const all = some.map(({ days: age, isProven }, n) => aged(String(n), age, isProven));
      const gone = new Set(mayGo(all, { newest, days }, now));
      const left = all.filter(({ id }) => !gone.has(id));
      const youngest = Math.max(...all.map(({ takenAt }) => takenAt.getTime()));
      expect(left.some(({ takenAt }) => takenAt.getTime() === youngest)).toBe(true);
      expect(left.some(({ isProven }) => isProven)).toBe(all.some(({ isProven }) => isProven));
      expect(left.length).toBeGreaterThanOrEqual(Math.min(all.length, newest));
    }),
  );
});
