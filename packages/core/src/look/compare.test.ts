import fc from 'fast-check';
import { expect, test } from 'vitest';
import { allThere, SideComparison, sumOfChanges, type Side } from './compare.js';

const side = (path: string, contents: string, more: Partial<Side> = {}): Side => ({
  ...{ class: 'notes', path, bytes: 10, contents, ...more },
});
/** @param turns which side is read next, until one is over */
function compared(before: Side[], after: Side[], turns: boolean[] = []) {
  const comparison = new SideComparison();
  const [was, is] = [[...before], [...after]];
  while (was.length > 0 || is.length > 0) {
    const side = (turns.shift() ?? true) || is.length === 0 ? was.shift() : undefined;
    if (side) comparison.before(side);
    else {
      const other = is.shift();
      if (other) comparison.after(other);
    }
  }
  const { differences, counts, same } = comparison.end();
  return { differences, counts: sumOfChanges(counts.values()), same: [...same.values()].flat() };
}
const told = (before: Side[], after: Side[]) =>
  compared(before, after).differences.map(({ change, before: was, after: is }) => [
    ...[change, was?.path ?? null, is?.path ?? null],
  ]);

test('what was added, changed, removed and called otherwise', () => {
  const before = [side('a', '1'), side('b', '2'), side('c', '3'), side('d', '4')];
  const after = [side('a', '1'), side('b', 'other'), side('moved/c', '3'), side('e', '5')];
  expect(told(before, after)).toEqual([
    ...[
      ['changed', 'b', 'b'],
      ['renamed', 'c', 'moved/c'],
    ],
    ...[
      ['removed', 'd', null],
      ['added', null, 'e'],
    ],
  ]);
  const { counts } = compared(before, after);
  expect(counts.same).toEqual({ items: 1, bytes: 10 });
  expect(allThere(counts, 'on the device')).toBe(
    '1 of 4 items is not on the device; 1 was changed, 1 is called otherwise, 1 was added.',
  );
  expect(allThere(compared(before, before).counts, 'on the device')).toBe(
    'It is all there: 4 items on the device.',
  );
  expect(allThere(compared([], after).counts, 'on the device')).toContain('nothing before');
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
    fc.property(some, some, fc.array(fc.boolean()), (before, after, turns) => {
      const [was = [], is = []] = [before, after].map((all) =>
        all.map(({ path, contents }) => side(path, contents)),
      );
      const { differences, counts, same: told } = compared(was, is, [...turns]);
      const same = was.filter((one) =>
        is.some(({ path, contents }) => path === one.path && contents === one.contents),
      );
      expect(told.map(({ path }) => path).sort()).toEqual(same.map(({ path }) => path).sort());
      expect(counts.same.items).toBe(same.length);
      const own = differences.flatMap((one) => one.before ?? []);
      expect(new Set([...own, ...same])).toEqual(new Set(was));
      expect(own.length + same.length).toBe(was.length);
      const others = differences.flatMap((one) => one.after ?? []);
      expect(new Set(others).size + same.length).toBe(is.length);
      for (const one of differences)
        if (one.change === 'renamed') expect(one.before?.contents).toBe(one.after?.contents);
      // In whatever order they are read, it is told alike.
      expect(counts).toEqual(compared(was, is).counts);
      const all = Object.values(counts).reduce((sum, { items }) => sum + items, 0);
      expect(all).toBe(differences.length + same.length);
    }),
  );
});
