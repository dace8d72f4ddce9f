import fc from 'fast-check';
import { expect, test } from 'vitest';
import { PathGuard } from './path-guard.js';

test.each([
  ...['../x', '/x', 'a/../b', 'a//b', './a', 'a/.', 'a/', '', '..', 'x\0y'],
  'n'.repeat(256),
  'é'.repeat(128),
  Array.from(
    { length: 60 },
    () => 'folder-of-a-name-that-is-seventy-letters-long-and-then-some-more-of-it',
  ).join('/'),
])('“%s” is taken in under no name', (path) => {
  expect(new PathGuard().takes(path, 'file')).toBe(false);
});

test('the same path twice, and a file that is a folder too, are refused; what else there is, is not', () => {
  const guard = new PathGuard();
  expect(guard.takes('notes/a', 'file')).toBe(true);
  expect(guard.takes('notes/a', 'file')).toBe(false);
  expect(guard.takes('notes/a', 'folder')).toBe(false);
  expect(guard.takes('notes/a/b', 'file')).toBe(false);
  expect(guard.takes('notes/a/c/d', 'link')).toBe(false);
  expect(guard.takes('notes', 'file')).toBe(false);
  expect(guard.takes('notes', 'folder')).toBe(true);
  expect(guard.takes('notes/b', 'link')).toBe(true);
  expect(guard.takes('other/deep/er', 'file')).toBe(true);
  expect(guard.takes('other/deep', 'file')).toBe(false);
  guard.clear();
  expect(guard.takes('notes/a', 'file')).toBe(true);
});

test('whatever is taken can all be written below one folder', () => {
  const part = fc.constantFrom('a', 'b', 'c', '..', '', 'long'.repeat(70));
  const told = fc.tuple(
    fc.array(part, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/')),
    fc.constantFrom('file', 'folder', 'link'),
  );
  fc.assert(
    fc.property(fc.array(told, { maxLength: 30 }), (all) => {
      const guard = new PathGuard();
      const taken = all.filter(([path, kind]) => guard.takes(path, kind as 'file'));
      const files = taken.filter(([, kind]) => kind !== 'folder').map(([path]) => path);
      expect(new Set(files).size).toBe(files.length);
      for (const file of files) {
        for (const [other] of taken) expect(other.startsWith(`${file}/`)).toBe(false);
        expect(taken.some(([path, kind]) => kind === 'folder' && path === file)).toBe(false);
        expect(file.split('/').includes('..')).toBe(false);
      }
    }),
    { numRuns: 1000 },
  );
});
