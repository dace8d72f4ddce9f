import { execFileSync } from 'node:child_process';
import { chmodSync, mkdirSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { withFolder, writeTree } from '../test-archives.js';
import { measureFolder, secondsOf, timeOf, walk } from './walk.js';

const pathsIn = (folder: string) =>
  Array.from(walk(folder), (found) =>
    found.type === 'failed' ? `! ${found.failed.path}` : found.item.path,
  );

describe('times', () => {
  test('have every nanosecond that the file system has, before 1970 too', () => {
    expect(timeOf(1_700_000_000_123_456_789n)).toBe('2023-11-14T22:13:20.123456789Z');
    expect(timeOf(1_700_000_000_000_000_000n)).toBe('2023-11-14T22:13:20.000Z');
    expect(timeOf(1_700_000_000_100_000_000n)).toBe('2023-11-14T22:13:20.100Z');
    expect(timeOf(-1n)).toBe('1969-12-31T23:59:59.999999999Z');
  });

  test('are in the order of the moments, and no two moments have the same', () => {
    const moment = fc.bigInt({ min: -(10n ** 18n), max: 4n * 10n ** 18n });
    fc.assert(
      fc.property(moment, moment, (a, b) => {
        expect(timeOf(a) === timeOf(b)).toBe(a === b);
        if (a < b) expect(secondsOf(timeOf(a))).toBeLessThanOrEqual(secondsOf(timeOf(b)));
        expect(secondsOf(timeOf(a))).toBeCloseTo(Number(a) / 1e9, 5);
      }),
    );
  });
});

describe('walking a folder', () => {
  test('finds everything once, a folder before what is in it, in the same order every time', async () => {
    await withFolder(async (folder) => {
      await writeTree(folder, {
        'b/2.txt': '',
        'b/10.txt': '',
        'a.txt': '',
        'B/x': '',
        'b/deep/er/y': '',
      });
      mkdirSync(join(folder, 'empty'));
      const paths = pathsIn(folder);
      expect(paths).toEqual(pathsIn(folder));
      expect(paths).toEqual([
        'B',
        'B/x',
        'a.txt',
        'b',
        'b/10.txt',
        'b/2.txt',
        'b/deep',
        'b/deep/er',
        'b/deep/er/y',
        'empty',
      ]);
    });
  });

  test('takes links as links, into the tree, out of it and to nowhere, and follows none', async () => {
    await withFolder(async (folder) => {
      await writeTree(folder, { 'inside/file': 'x' });
      for (const [name, target] of Object.entries({
        in: 'inside',
        out: '/etc',
        nowhere: 'gone',
        loop: '.',
      })) {
        symlinkSync(target, join(folder, name));
      }
      const links = [...walk(folder)].filter((found) => found.type === 'link');
      expect(links.map(({ item, target }) => [item.path, target.toString(), item.bytes])).toEqual([
        ['in', 'inside', 6],
        ['loop', '.', 1],
        ['nowhere', 'gone', 4],
        ['out', '/etc', 4],
      ]);
      expect(
        pathsIn(folder).some((path) => path.startsWith('out/') || path.startsWith('loop/')),
      ).toBe(false);
    });
  });

  test('names what is neither file, folder nor link, and goes on', async () => {
    await withFolder(async (folder) => {
      await writeTree(folder, { a: '1', z: '2' });
      execFileSync('mkfifo', [join(folder, 'pipe')]);
      const failed = [...walk(folder)].flatMap((found) =>
        found.type === 'failed' ? [found.failed] : [],
      );
      expect(failed).toEqual([
        { class: expect.any(String) as string, path: 'pipe', reason: 'not-a-file' },
      ]);
      expect(pathsIn(folder)).toEqual(['a', '! pipe', 'z']);
    });
  });

  test('of a folder that is not there is an error, not an empty backup', async () => {
    await withFolder(async (folder) => {
      expect(() => pathsIn(join(folder, 'not there'))).toThrow(/ENOENT/);
    });
  });

  test('keeps size, mode and time; and a file’s mark changes with it', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'note.txt');
      const look = () => {
        const [found] = walk(folder);
        if (found?.type !== 'file') throw new Error('no file');
        return found.item;
      };
      writeFileSync(path, 'hello');
      chmodSync(path, 0o640);
      utimesSync(path, 1_700_000_000, 1_700_000_000);
      const before = look();
      expect(before).toMatchObject({ bytes: 5, mode: 0o640, modified: '2023-11-14T22:13:20.000Z' });
      expect(look().mark).toBe(before.mark);
      // Another text of the same length, and its time set back: as some applications do.
      writeFileSync(path, 'HELLO');
      utimesSync(path, 1_700_000_000, 1_700_000_000);
      expect(look()).toMatchObject({ bytes: 5, modified: before.modified });
      expect(look().mark).not.toBe(before.mark);
    });
  });

  test('measures what will be packed', async () => {
    await withFolder(async (folder) => {
      await writeTree(folder, { 'a/1': 'four', 'a/2': '' });
      symlinkSync('a', join(folder, 'link'));
      expect(measureFolder(folder)).toEqual({ items: 4, bytes: 5 });
    });
  });
});
