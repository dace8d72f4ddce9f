import { randomBytes } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { SEGMENT_BYTES } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { NewItem } from '../format/backup-lines.js';
import { ListWriter } from '../format/list-writer.js';
import { SealedReader } from '../format/sealed-file.js';
import { ArchiveKey } from '../keys/archive-key.js';
import { FolderFiles } from '../store/folder-files.js';
import { withFolder } from '../test-archives.js';
import { EarlierItems, isSame } from './earlier-items.js';
import { ListRecorder } from './list-recorder.js';

/** A list as one run writes it and as the next one looks through it. */
const key = ArchiveKey.random();

const newItem = (path: string, change: Partial<NewItem> = {}): NewItem => ({
  class: 'photographs',
  kind: 'file',
  path,
  bytes: 10,
  modified: '2026-01-02T03:04:05.000Z',
  mode: 0o644,
  mark: `${path} 1`,
  ...change,
});

function write(path: string, use: (recorder: ListRecorder) => void, finish = true) {
  const list = new ListWriter(path, key);
  const recorder = new ListRecorder(list);
  use(recorder);
  if (finish) list.finish();
  else {
    list.flush();
    list.close();
  }
  return recorder.counts;
}

function addWhole(recorder: ListRecorder, item: NewItem, chunks = randomBytes(32)): Buffer {
  recorder.begin(item, []);
  recorder.part(item.bytes, chunks);
  const { taken } = recorder.end();
  // A matcher for each of sixty thousand takes longer than all the rest.
  if (!taken) throw new Error(`${item.path} was not taken`);
  return chunks;
}

const lookThrough = async (path: string, torn = false) => {
  const files = new FolderFiles(dirname(path));
  return EarlierItems.read(await SealedReader.open(files, basename(path), 'backup', key), torn);
};

describe('the items of an earlier backup', () => {
  test('are found by their path, in any order, with their own chunks; others are not', async () => {
    await withFolder(async (folder) => {
      let run = 0;
      const paths = fc.uniqueArray(fc.string({ minLength: 1, unit: 'grapheme' }), {
        maxLength: 300,
      });
      await fc.assert(
        fc.asyncProperty(paths, fc.string({ minLength: 1 }), async (names, absent) => {
          fc.pre(!names.includes(absent));
          const path = join(folder, `${run++}`);
          const chunks = new Map<string, Buffer>();
          write(path, (recorder) => {
            for (const name of names) chunks.set(name, addWhole(recorder, newItem(name)));
          });
          const earlier = await lookThrough(path);
          for (const name of [...names].reverse()) {
            const found = await earlier.find(name);
            expect(found?.item.path).toBe(name);
            expect(found?.item.chunks).toEqual(chunks.get(name));
            expect(await earlier.has(newItem(name))).toBe(true);
            expect(await earlier.has(newItem(name, { mark: 'another' }))).toBe(false);
          }
          expect(await earlier.find(absent)).toBeNull();
          earlier.close();
        }),
        { numRuns: 20 },
      );
    });
  });

  test('many more than are kept in memory are all found', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'list');
      const name = (n: number) => `photographs/${'a long folder name '.repeat(8)}/${n}.jpg`;
      const count = 60_000;
      write(path, (recorder) => {
        for (let n = 0; n < count; n++) addWhole(recorder, newItem(name(n)));
      });
      const earlier = await lookThrough(path);
      for (let n = 0; n < count; n += 997)
        expect(await earlier.has(newItem(name(n))), `${n}`).toBe(true);
      for (let n = count - 1; n > 0; n -= 9973)
        expect(await earlier.has(newItem(name(n))), `${n}`).toBe(true);
      earlier.close();
    });
  });

  test('are the same only while nothing tells them apart', () => {
    const item = newItem('a');
    const before = { ...item, chunks: Buffer.alloc(0) };
    expect(isSame(before, item)).toBe(true);
    expect(isSame(before, { ...item, mark: '2' })).toBe(false);
    expect(isSame(before, { ...item, bytes: 11 })).toBe(false);
    expect(isSame(before, { ...item, kind: 'link' })).toBe(false);
    // A source that says nothing of its state is read again.
    expect(isSame({ ...before, mark: '' }, { ...item, mark: '' })).toBe(false);
    // Who may read it is no reason to send it again.
    expect(isSame(before, { ...item, mode: 0o600 })).toBe(true);
  });
});

describe('a long item', () => {
  const long = newItem('videos/long.mp4', { bytes: 40 * SEGMENT_BYTES });
  const segment = () => randomBytes(32 * 8);

  test('is written in parts and found whole', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'list');
      const all: Buffer[] = [];
      write(path, (recorder) => {
        recorder.begin(long, []);
        for (let at = 0; at < long.bytes; at += SEGMENT_BYTES) {
          all.push(segment());
          recorder.part(SEGMENT_BYTES, all.at(-1) ?? segment());
        }
        recorder.end();
      });
      const earlier = await lookThrough(path);
      const found = await earlier.find(long.path);
      expect(found?.item.chunks).toEqual(Buffer.concat(all));
      expect(found?.parts.length).toBeGreaterThan(1);
      expect(earlier.beginningOf(long.path)).toEqual([]);
      // The next backup writes it again without reading it, and it is found there too.
      const next = join(folder, 'next');
      const counts = write(next, (recorder) => found && recorder.reuse(long, found));
      expect(counts).toEqual({ items: 1, bytes: long.bytes, failed: 0, newItems: 0 });
      expect((await (await lookThrough(next)).find(long.path))?.item.chunks).toEqual(
        Buffer.concat(all),
      );
    });
  });

  test('that was cut off is known as far as it came, and goes on from there', async () => {
    await withFolder(async (folder) => {
      const [path, next] = [join(folder, 'list'), join(folder, 'next')];
      const first = Array.from({ length: 11 }, segment);
      write(
        path,
        (recorder) => {
          addWhole(recorder, newItem('photographs/1.jpg'));
          recorder.begin(long, []);
          for (const chunks of first) recorder.part(SEGMENT_BYTES, chunks);
          recorder.writeBegun();
        },
        false,
      );
      // The last bytes never reached the medium.
      const cut = readFileSync(path);
      writeFileSync(path, cut.subarray(0, cut.length - 1));
      const torn = await lookThrough(path, true);
      expect(torn.beginningOf(long.path).length).toBeLessThanOrEqual(2);
      writeFileSync(path, cut);
      const begun = await lookThrough(path, true);
      const beginning = begun.beginningOf(long.path);
      expect(beginning.at(-1)?.to).toBe(11 * SEGMENT_BYTES);
      expect(await begun.find(long.path)).toBeNull();
      expect(begun.beginningOf('videos/other.mp4')).toEqual([]);
      expect(await begun.has(newItem('photographs/1.jpg'))).toBe(true);

      const rest = Array.from({ length: 29 }, segment);
      write(next, (recorder) => {
        recorder.begin(long, beginning);
        for (const chunks of rest) recorder.part(SEGMENT_BYTES, chunks);
        recorder.end();
      });
      expect((await (await lookThrough(next)).find(long.path))?.item.chunks).toEqual(
        Buffer.concat([...first, ...rest]),
      );
    });
  });
});

describe('what fails', () => {
  test('is counted and named, and leaves nothing of itself in the next item', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'list');
      const chunks = randomBytes(32);
      const counts = write(path, (recorder) => {
        const bad = newItem('photographs/bad.jpg');
        recorder.begin(bad, []);
        recorder.part(5, randomBytes(32));
        recorder.partFailed('read-error');
        recorder.partFailed('gone');
        const outcome = recorder.end();
        expect(outcome).toEqual({ taken: false, failure: 'read-error' });
        recorder.failed({ class: bad.class, path: bad.path, reason: 'read-error' });
        addWhole(recorder, newItem('photographs/good.jpg'), chunks);
      });
      expect(counts).toEqual({ items: 1, bytes: 10, failed: 1, newItems: 0 });
      const earlier = await lookThrough(path);
      expect(await earlier.find('photographs/bad.jpg')).toBeNull();
      expect((await earlier.find('photographs/good.jpg'))?.item.chunks).toEqual(chunks);
      earlier.close();
    });
  });
});
