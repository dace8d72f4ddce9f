import fc from 'fast-check';
import { expect, test } from 'vitest';
import { allThere, compareSides, countChanges, type Side } from './compare.js';

const side = (path: string, contents: string, more: Partial<Side> = {}): Side => ({
  ...{ class: 'notes', path, bytes: 10, contents, ...more },
});
const told = (before: Side[], after: Side[]) =>
  compareSides(before, after).map(({ change, before: was, after: is }) => [
    ...[change, was?.path ?? null, is?.path ?? null],
  ]);

test('what was added, changed, removed and called otherwise', () => {
  const before = [side('a', '1'), side('b', '2'), side('c', '3'), side('d', '4')];
  const after = [side('a', '1'), side('b', 'other'), side('moved/c', '3'), side('e', '5')];
  expect(told(before, after)).toEqual([
    ...[
      ['same', 'a', 'a'],
      ['changed', 'b', 'b'],
      ['renamed', 'c', 'moved/c'],
    ],
    ...[
      ['removed', 'd', null],
      ['added', null, 'e'],
    ],
  ]);
  const counts = countChanges(compareSides(before, after));
  expect(allThere(counts, 'on the device')).toBe(
    '1 of 4 items is not on the device; 1 was changed, 1 is called otherwise, 1 was added.',
  );
  expect(allThere(countChanges(compareSides(before, before)), 'on the device')).toBe(
    'It is all there: 4 items on the device.',
  );
  expect(allThere(countChanges(compareSides([], after)), 'on the device')).toContain(
    'nothing before',
  );
});

test('the same contents several times are taken for each other once each', () => {
  const before = [side('a', '1'), side('b', '1')];
  expect(told(before, [side('x', '1')])).toEqual([
    ['renamed', 'a', 'x'],
    ['removed', 'b', null],
  ]);
});

test('nothing is lost or told twice: every item is on its side exactly once', () => {
  const some = fc.uniqueArray(
    fc.record({
      path: fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f'),
      contents: fc.constantFrom('1', '2', '3'),
    }),
    { selector: ({ path }) => path },
  );
  fc.assert(
    fc.property(some, some, (before, after) => {
      const [was, is] = [before, after].map((all) =>
        all.map(({ path, contents }) => side(path, contents)),
      );
      const all = compareSides(was ?? [], is ?? []);
      expect(all.flatMap((one) => one.before ?? []).length).toBe(before.length);
      expect(new Set(all.flatMap((one) => one.after ?? [])).size).toBe(after.length);
      for (const one of all) {
        if (one.change === 'same' || one.change === 'renamed') {
          expect(one.before?.contents).toBe(one.after?.contents);
        }
      }
      const counts = countChanges(all);
      expect(Object.values(counts).reduce((sum, { items }) => sum + items, 0)).toBe(all.length);
    }),
  );
});
