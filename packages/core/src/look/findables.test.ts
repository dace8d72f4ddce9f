import fc from 'fast-check';
import { expect, test } from 'vitest';
import { digitsOf, folded, numberEnd } from './fold.js';
import { Findables, Meant, type Findable } from './index.js';

const NOW = new Date('2026-11-28T12:00:00Z');
const DAY = Date.parse('2026-03-02T12:00:00Z');

/** The same said plainly: each text by itself. */
const plainly = (all: readonly Findable[], { words, number, dated }: Meant) =>
  all.flatMap(({ text, at }, n) => {
    const has = (some: readonly string[]) => some.every((word) => folded(text).includes(word));
    const isNumbered =
      number !== null && /\d.*\d.*\d.*\d/.test(text) && digitsOf(text).includes(number);
    const isDated =
      dated !== null && at !== null && at >= dated.from && at < dated.to && has(dated.words);
    return has(words) || isNumbered || isDated ? [n] : [];
  });

test('many texts together are searched as each by itself', () => {
  const word = fc.constantFrom('Ferry', 'quäy', 'tide ', '', 'a', '\n', 'Ёлка', '+44 7700 900001');
  const text = fc.array(word, { maxLength: 6 }).map((words) => words.join(' '));
  const at = fc.constantFrom(null, 0, DAY, DAY + 40 * 86_400_000);
  const asked = fc.constantFrom(
    ...['ferry', 'quay a', 'rr', 'march', 'ferry 2026-03-02', '07700 900001', 'y\na', 'елка'],
  );
  fc.assert(
    fc.property(fc.array(fc.record({ text, at }), { maxLength: 30 }), asked, (all, what) => {
      const meant = new Meant(what, NOW);
      expect(new Findables(all).find(meant)).toEqual(plainly(all, meant));
    }),
  );
});

test('however many there are, each is told by its own number', () => {
  // More than one long string has.
  const all = Array.from({ length: 5000 }, (_, n) => ({
    text: `${n % 7 === 0 ? 'seventh' : 'other'} seventh? ${'of many '.repeat(12)}${n} 900 ${1000 + n}`,
    at: n,
  }));
  const findables = new Findables(all);
  for (const what of ['seventh of', 'other', '9001999', '4999', numberEnd('900 1000')]) {
    const meant = new Meant(what, NOW);
    const found = findables.find(meant);
    expect(found).toEqual(plainly(all, meant));
    expect(found.length).toBeGreaterThan(0);
  }
  expect(findables.find(new Meant('other', NOW))).toHaveLength(5000 - Math.ceil(5000 / 7));
});
