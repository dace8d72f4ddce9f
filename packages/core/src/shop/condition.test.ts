import { expect, test } from 'vitest';
import { judgeCondition, owedSentence, type ConditionFacts } from './condition.js';

const now = new Date('2026-11-28T09:00:00Z');
const daysAgo = (days: number) => new Date(now.getTime() - days * 86_400_000);
const rack = {
  name: 'Alder',
  present: true,
  carried: false,
  room: 9e11,
  narrow: false,
  ailing: null,
};
const sound: ConditionFacts = {
  now,
  disk: { capacity: 5e11, free: 2e11 },
  lastEntry: daysAgo(1),
  database: { version: '10.11', answeredInMs: 2 },
  migrations: { made: 28, known: 28 },
  processes: { work: true, adapter: true },
  racks: [rack],
  saves: { hasKey: true, lastAt: daysAgo(0.3), problems: [] },
  certificate: { until: daysAgo(-60), uncovered: [] },
  queues: { orderedForMs: 0, untold: 0, owed: { total: 0, isMore: false } },
  keepers: 2,
  escrowLeft: [],
  versions: { program: '0.1.0', node: '20.20.2', supported: true },
  keyIsPrivate: true,
  restoredFrom: null,
};
const bad = (change: Partial<ConditionFacts>) =>
  judgeCondition({ ...sound, ...change }).filter(({ state }) => state !== 'well');

test('a sound installation says so of each thing, and asks for nothing', () => {
  const all = judgeCondition(sound);
  expect(all.filter(({ state, next }) => state !== 'well' || next !== '')).toEqual([]);
  expect(all.length).toBeGreaterThan(9);
});

test.each<[string, Partial<ConditionFacts>, string, string]>([
  [
    'no recovery key',
    { saves: { hasKey: false, lastAt: null, problems: [] } },
    'wrong',
    'Saved catalogue',
  ],
  [
    'no save yet',
    { saves: { hasKey: true, lastAt: null, problems: [] } },
    'wrong',
    'Saved catalogue',
  ],
  [
    'an old save',
    { saves: { hasKey: true, lastAt: daysAgo(4), problems: [] } },
    'wrong',
    'Saved catalogue',
  ],
  [
    'a rack that has none',
    { saves: { ...sound.saves, problems: [{ rack: 'Birch', what: 'Full.' }] } },
    ...(['look', 'Saved catalogue'] as const),
  ],
  ['no database', { database: null }, 'wrong', 'Database'],
  ['a slow database', { database: { version: '10', answeredInMs: 4000 } }, 'look', 'Database'],
  ['tables of another version', { migrations: { made: 27, known: 28 } }, 'wrong', 'Database'],
  ['no work process', { processes: { work: false, adapter: true } }, 'wrong', 'Long work'],
  ['no adapter', { processes: { work: true, adapter: false } }, 'wrong', 'Devices'],
  ['a stopped program', { processes: null }, 'look', 'Program'],
  ['a full disk', { disk: { capacity: 5e11, free: 1e9 } }, 'wrong', 'Disk of this computer'],
  [
    'a disk that fills',
    { disk: { capacity: 5e11, free: 1.5e10 } },
    'look',
    'Disk of this computer',
  ],
  ['no disk', { disk: null }, 'wrong', 'Disk of this computer'],
  ['no rack', { racks: [] }, 'wrong', 'Racks'],
  ['a rack that is switched off', { racks: [{ ...rack, present: false }] }, 'wrong', 'Rack Alder'],
  ['an ailing rack', { racks: [{ ...rack, ailing: '3 errors.' }] }, 'wrong', 'Rack Alder'],
  ['a narrow rack', { racks: [{ ...rack, narrow: true }] }, 'look', 'Rack Alder'],
  ['a clock that went back', { lastEntry: daysAgo(-2) }, 'wrong', 'Clock'],
  [
    'a certificate that ends',
    { certificate: { until: daysAgo(-10), uncovered: [] } },
    'look',
    'Certificate',
  ],
  ['one that ended', { certificate: { until: daysAgo(1), uncovered: [] } }, 'wrong', 'Certificate'],
  [
    'one for others',
    { certificate: { until: daysAgo(-60), uncovered: ['x'] } },
    'look',
    'Certificate',
  ],
  [
    'work that nobody takes up',
    { queues: { ...sound.queues, orderedForMs: 90_000 } },
    'wrong',
    'What waits',
  ],
  [
    'browsers that hear nothing',
    { queues: { ...sound.queues, untold: 5000 } },
    'wrong',
    'What waits',
  ],
  [
    'copies that are owed',
    { queues: { ...sound.queues, owed: { total: 3, isMore: false } } },
    'look',
    'What waits',
  ],
  ['one keeper', { keepers: 1 }, 'look', 'People'],
  ['an escrow of somebody who left', { escrowLeft: ['Fenna Elder'] }, 'wrong', 'Escrow'],
  ['an open key', { keyIsPrivate: false }, 'wrong', 'Data folder'],
  ['an old Node', { versions: { ...sound.versions, supported: false } }, 'wrong', 'Versions'],
  ['a catalogue that was brought back', { restoredFrom: daysAgo(2) }, 'look', 'Brought back'],
])('%s is said, with what to do', (_, change, state, about) => {
  const found = bad(change);
  expect(found).toHaveLength(1);
  expect(found[0]).toMatchObject({ state, about });
  expect(found[0]?.next.length).toBeGreaterThan(5);
});

test('a drive in a drawer is where it should be; the worst comes first', () => {
  expect(bad({ racks: [rack, { ...rack, name: 'Fern', present: false, carried: true }] })).toEqual(
    [],
  );
  expect(bad({ keepers: 1, database: null }).map(({ state }) => state)).toEqual(['wrong', 'look']);
});

test('copies that are owed are told as exactly as they were counted', () => {
  expect(owedSentence({ total: 1, isMore: false })).toBe('1 copy is owed by the house rules.');
  expect(owedSentence({ total: 1000, isMore: true })).toMatch(/^More than 1,?000 copies are owed/);
});
