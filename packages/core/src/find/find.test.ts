import { describe, expect, test } from 'vitest';
import { askOf } from './ask.js';
import { easterOf } from './when.js';

const now = new Date('2026-11-27T12:00:00Z');
const days = (text: string, at = now) => {
  const { taken } = askOf(text, at);
  const shown = (date: Date | null) => date?.toISOString().slice(0, 10) ?? '…';
  return taken && `${shown(taken.from)} ${shown(taken.to)}`;
};

describe('dates as people say them', () => {
  test.each([
    ['spring 2026', '2026-03-01 2026-06-01'],
    ['from spring', '2026-03-01 2026-06-01'],
    ['last spring', '2026-03-01 2026-06-01'],
    ['in winter', '2025-12-01 2026-03-01'],
    ['winter 2025', '2025-12-01 2026-03-01'],
    ['last march', '2026-03-01 2026-04-01'],
    ['in november', '2026-11-01 2026-12-01'],
    ['last november', '2025-11-01 2025-12-01'],
    ['from december', '2025-12-01 2026-01-01'],
    ['mar 2025', '2025-03-01 2025-04-01'],
    ['24 nov', '2026-11-24 2026-11-25'],
    ['24 nov 2025', '2025-11-24 2025-11-25'],
    ['2026-03', '2026-03-01 2026-04-01'],
    ['2026-03-09', '2026-03-09 2026-03-10'],
    ['2025', '2025-01-01 2026-01-01'],
    ['today', '2026-11-27 2026-11-28'],
    ['yesterday', '2026-11-26 2026-11-27'],
    ['this week', '2026-11-23 2026-11-30'],
    ['last week', '2026-11-16 2026-11-23'],
    ['last month', '2026-10-01 2026-11-01'],
    ['last year', '2025-01-01 2026-01-01'],
    ['before easter', '… 2026-04-05'],
    ['before christmas', '… 2025-12-25'],
    ['since easter 2025', '2025-04-20 …'],
    ['after spring 2025', '2025-06-01 …'],
    ['until 2026-02', '… 2026-02-01'],
  ])('%s', (text, expected) => {
    expect(days(text)).toBe(expected);
  });

  test.each([
    'april moor',
    'summer',
    'grey tablet',
    'marsh',
    'before',
    'last one',
    'mayor',
    'ma',
    '260401',
  ])('%s is none', (text) => {
    expect(askOf(text, now).taken).toBeNull();
  });

  test('of Easter: as almanacs have it', () => {
    for (const date of ['2019-04-21', '2024-03-31', '2025-04-20', '2038-04-25', '2285-03-22'])
      expect(
        easterOf(Number(date.slice(0, 4)))
          .toISOString()
          .slice(0, 10),
      ).toBe(date);
  });
});

test('what is left are words, in any order, without those that say nothing', () => {
  expect(askOf('The one from spring, the grey tablet', now)).toEqual({
    words: ['grey', 'tablet'],
    taken: { from: new Date('2026-03-01'), to: new Date('2026-06-01') },
  });
  expect(askOf('Orla before Easter Wickbank', now).words).toEqual(['orla', 'wickbank']);
  expect(askOf('  the ', now)).toEqual({ words: ['the'], taken: null });
  expect(askOf('', now)).toEqual({ words: [], taken: null });
});
