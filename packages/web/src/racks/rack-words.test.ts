import type { Elevation } from '@bright-cellar/contract';
import { describe, expect, test } from 'vitest';
import { aRack } from '../testing/made-up.js';
import { fullWords, whatNow, whereWords } from './rack-words.js';

const today = new Date('2026-11-24T12:00:00Z');
const elevation = (full: Elevation['full']): Elevation => ({
  ...{ rackId: aRack().id, courses: [], others: { archives: 0, storedBytes: 0 } },
  ...{ full, ailing: null },
});

describe('what needs somebody about the racks', () => {
  test('is nothing where every one is here and has room, and a drive may be away', () => {
    const away = aRack({ kind: 'drive', present: false });
    expect(whatNow([aRack(), away], [], today).needs).toBe(false);
  });

  test.each([
    ['no rack at all', [], /Add the first rack/],
    ['a fixed disk that is away', [aRack({ present: false })], /Alder does not answer/],
    [
      'a rack that is nearly full',
      [aRack({ free: 30e9, reserve: 20e9 })],
      /Alder has 10\.0 GB left above its reserve/,
    ],
  ])('%s', (_, racks, says) => {
    const now = whatNow(racks, [], today);
    expect(now.needs).toBe(true);
    expect(now.sentence).toMatch(says);
  });

  test('one that may be full within two weeks', () => {
    const soon = elevation({ early: '2026-12-02', late: '2026-12-20' });
    expect(whatNow([aRack()], [soon], today).sentence).toMatch(/may be full on 2 Dec 2026/);
    const later = elevation({ early: '2027-03-02', late: null });
    expect(whatNow([aRack()], [later], today).needs).toBe(false);
  });
});

test('when it is full is said as honestly as it is known', () => {
  expect(fullWords(null)).toBe('not in sight');
  expect(fullWords({ early: '2027-03-02', late: null })).toBe('2 Mar 2027 at the earliest');
  expect(fullWords({ early: '2027-03-02', late: '2027-03-02' })).toBe('2 Mar 2027');
  expect(fullWords({ early: '2027-03-02', late: '2027-04-01' })).toBe('2 Mar 2027 – 1 Apr 2027');
});

test('where it is', () => {
  expect(whereWords(aRack())).toBe('here');
  expect(whereWords(aRack({ present: false }))).toBe('away since 24 Nov 2026');
  expect(whereWords(aRack({ present: false, seenAt: null }))).toBe('never seen here');
});

test('a rack that ails comes before one that fills', () => {
  const ailing = 'It reads at 41 MB/s, and read at 110 MB/s before. Move what lies here.';
  const soon = { ...elevation({ early: '2026-11-30', late: null }), ailing };
  const { id } = aRack();
  expect(whatNow([aRack()], [{ ...soon, rackId: id }], today)).toEqual({
    needs: true,
    sentence: `Alder ails. ${ailing}`,
    plan: { name: 'Empty Alder', to: `/racks/plan?wish=empty&rack=${id}` },
  });
});
