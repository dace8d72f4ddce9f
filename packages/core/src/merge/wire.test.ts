import { expect, test } from 'vitest';
import { merged, type Merging } from './merging.js';
import type { MergedRecords } from './fields.js';
import { answered, asked, heard, understood } from './wire.js';

type Contact = MergedRecords['contacts'];
const contact = (n: number, more: Partial<Contact> = {}): Contact => ({
  ...{ name: `Given${n} Family`, numbers: [`0151 496 ${1000 + n}`], emails: [], addresses: [] },
  ...{ birthday: '', organisation: '', note: '', picture: null, ...more },
});
const held = (side: string, n: number, record: Contact) => ({
  ...{ id: `${side}${n}`, record, changedAt: n },
});

/** Some as they were, some changed on one side or both, removed, new, and of one person twice. */
function someMerging(without: Merging['way']['without']): Merging {
  const all = Array.from({ length: 30 }, (_, n) => n);
  const here = (n: number) => contact(n, n % 5 === 0 ? { note: 'Mill' } : {});
  const there = (n: number) => contact(n, n % 7 === 0 ? { note: 'Weir', organisation: 'Co' } : {});
  return {
    kind: 'contacts',
    device: [
      ...all.filter((n) => n !== 3).map((n) => held('d', n, here(n))),
      held('d', 90, contact(90)),
    ],
    partner: [
      ...all.filter((n) => n !== 4).map((n) => held('p', n, there(n))),
      ...[held('p', 91, contact(91)), held('p', 92, contact(91, { name: 'Family, Given91' }))],
    ],
    remembered: all.map((n) => ({
      ids: { device: `d${n}`, partner: `p${n}` },
      base: { device: contact(n), partner: contact(n) },
    })),
    decisions: new Map([[JSON.stringify(['d0', 'p0']), 'device' as const]]),
    joins: [],
    way: { direction: 'both', rule: 'ask', without },
    letters: { device: { name: 12 }, partner: {} },
  };
}

test.each([[[]], [['organisation']]] as Merging['way']['without'][][])(
  'what a thread answers is what would have been worked out here, without %j',
  (without) => {
    const merging = someMerging(without);
    const here = merged(merging);
    expect(here.lines.filter(({ conflict }) => conflict !== null).length).toBeGreaterThan(0);
    const over = heard(asked(merging));
    expect(over).toEqual(merging);
    expect(understood(merging, answered(over, merged(over)))).toEqual(here);
  },
);

test('with persons that are one', () => {
  const merging = someMerging([]);
  const { apart, persons } = merged(merging);
  const [pair] = persons;
  const key = (at = -1) => apart[at]?.key ?? '';
  const joined: Merging = { ...merging, joins: [[key(pair?.one), key(pair?.other)]] };
  const here = merged(joined);
  expect(here.lines).not.toEqual(here.apart);
  const over = heard(asked(joined));
  expect(understood(joined, answered(over, merged(over)))).toEqual(here);
});

test('what comes back says little of what nobody changed', () => {
  const merging = someMerging([]);
  expect(answered(merging, merged(merging)).length).toBeLessThan(asked(merging).length);
});
