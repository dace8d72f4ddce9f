import { expect, test } from 'vitest';
import { rowsOfDays } from './rows-of-days.js';

test('a day on which thousands were made is many rows, with all of them in their order', () => {
  const made = Array.from({ length: 3000 }, (_, n) => ({ at: '2026-11-29T12:00:00Z', n }));
  const other = { at: '2026-11-28T12:00:00Z', n: -1 };
  const rows = rowsOfDays([...made, other]);
  expect(Math.max(...rows.map((row) => row.made.length))).toBeLessThanOrEqual(24);
  expect(rows.flatMap((row) => row.made)).toEqual([...made, other]);
  expect(rows[0]).toMatchObject({ part: 0, count: 3000 });
  expect(rows.at(-1)).toMatchObject({ part: 0, count: 1 });
  expect(new Set(rows.map(({ name, part }) => `${name} ${part}`)).size).toBe(rows.length);
});
