import fc from 'fast-check';
import { expect, test } from 'vitest';
import { noContact } from '../records/contact.js';
import type { Message } from '../records/message.js';
import { Conversations, folded, Meant, monthsOf, People, Searching } from './index.js';

const NOW = new Date('2026-11-28T12:00:00Z');
const meant = (text: string) => new Meant(text, NOW);
const ADA = '+44 7700 900001';
const message = (thread: string, at: string, from: string, text: string): Message => ({
  ...{ thread, at: new Date(at), from, text, attachment: null },
});

function people(): People {
  const known = new People();
  known.add([
    { ...noContact, name: 'Ada Birch', numbers: [ADA, '+44 7700 900002'] },
    { ...noContact, name: 'Ada B.', numbers: ['+447700900001'] },
    { ...noContact, name: 'Linus', numbers: ['+44 7700 900003'] },
  ]);
  return known;
}

function two() {
  const all = new Conversations();
  all.add('Messages', [
    message('1', '2026-03-02T10:00:00Z', 'me', 'Shall we meet at the café?'),
    message('1', '2026-03-01T10:00:00Z', ADA, 'Are you there'),
  ]);
  all.add('Tansy', [
    message('7', '2026-04-01T10:00:00Z', '+44 (0)7700 900003', 'not Linus, by another number'),
    message('8', '2026-03-01T12:00:00Z', '+44 7700 900002', 'call me: 01632 960 123'),
  ]);
  all.addThread('Tansy', { name: '9', isGroup: true, members: [ADA, '+44 7700 900003'] });
  all.add('Tansy', [message('9', '2025-12-24T10:00:00Z', ADA, 'To both of you')]);
  all.addThread('Tansy', { name: 'empty', isGroup: false, members: [ADA] });
  return all.told(people());
}

test('the same person in several applications is one conversation, in the order of time; a group is itself', () => {
  const told = two();
  expect(told.map(({ people: names, isGroup, sources }) => [names, isGroup, sources])).toEqual([
    [['+44 (0)7700 900003'], false, ['Tansy']],
    [['Ada Birch'], false, ['Messages', 'Tansy']],
    [['Ada Birch', 'Linus'], true, ['Tansy']],
  ]);
  expect(told[1]?.said.map(({ from, isOwn, source }) => [from, isOwn, source])).toEqual([
    ['Ada Birch', false, 'Messages'],
    ['Ada Birch', false, 'Tansy'],
    ['', true, 'Messages'],
  ]);
  expect(told.map(({ id }) => id)).toEqual([0, 1, 2]);
});

test('months in which anything was said, with where each begins', () => {
  expect(monthsOf((two()[1]?.said ?? []).map(({ at }) => at))).toEqual([
    { month: '2026-03', count: 3, first: 0 },
  ]);
  expect(monthsOf([])).toEqual([]);
});

test.each([
  ['CAFE', [2]],
  ['café meet', [2]],
  ['ada there', [0]],
  ['+44 1632 960123', [1]],
  ['+44 1632 960124', []],
  ['01632-960123', [1]],
  ['linus', []],
  ['in march', [2, 1, 0]],
  ['café last march', [2]],
  ['2026-03-01', [1, 0]],
  ['february', []],
  ['nothing of it', []],
  ['  ', []],
])('%s is looked for', (text, found) => {
  const told = two();
  const searching = new Searching(told);
  const { hits, total } = searching.find(meant(text), { atMost: 10, within: 1 });
  expect(hits.map(({ index }) => index)).toEqual(found);
  expect(total).toBe(found.length);
});

test('the newest first, no more than are wanted, and how many there are', () => {
  const searching = new Searching(two());
  expect(searching.find(meant('o'), { atMost: 2 })).toEqual({
    hits: [
      { conversation: 0, index: 0 },
      { conversation: 1, index: 0 },
    ],
    total: 3,
  });
});

test('folding twice changes nothing more, and every message is found by its own words', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 40 }), (text) => {
      expect(folded(folded(text))).toBe(folded(text));
      const all = new Conversations();
      all.add('Messages', [message('1', '2026-03-02T10:00:00Z', 'me', text)]);
      const searching = new Searching(all.told(new People()));
      const isBlank = folded(text).trim() === '';
      expect(searching.find(meant(text), { atMost: 1 }).total).toBe(isBlank ? 0 : 1);
    }),
  );
});
