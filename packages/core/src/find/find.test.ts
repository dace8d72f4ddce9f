import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { askOf } from './ask.js';
import { nearestWords } from './nearest.js';
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

describe('slips of the hand', () => {
  const known = ['wickbank', 'fennick', 'orla', 'tablet', 'vireo', 'quill', 'quilt'];

  test.each([
    ['wikbank', ['wickbank']],
    ['wickbnak', ['wickbank']],
    ['fenick', ['fennick']],
    ['tabelt', ['tablet']],
    ['oral', ['orla']],
    ['quilx', ['quill', 'quilt']],
    // As it is: some have it, it is too short, a number, or nothing is near.
    ['fenn', ['fenn']],
    ['orl', ['orl']],
    ['xyz', ['xyz']],
    ['2611001', ['2611001']],
    ['harrow', ['harrow']],
  ])('%s', (typed, meant) => {
    expect(nearestWords(typed, known)).toEqual(meant);
  });

  test('whatever is typed, a word that is there is found by itself and by any one slip in a long one', () => {
    const word = fc.stringMatching(/^[a-z]{7,12}$/);
    fc.assert(
      fc.property(word, fc.nat(), (meant, at) => {
        expect(nearestWords(meant, [meant])).toEqual([meant]);
        const slip = meant.slice(0, at % meant.length) + meant.slice((at % meant.length) + 1);
        const found = nearestWords(slip, [meant]);
        expect(found[0] === meant || meant.includes(slip)).toBe(true);
      }),
    );
  });
});
