import { join } from 'node:path';
import { randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, test, vi } from 'vitest';
import type { NewItem } from '../format/backup-lines.js';
import { opened, withFolder, withIt, ESCROW } from '../test-archives.js';
import { verifyOpen } from '../verify/verify.js';
import { BackupRun, type BackupEvents } from './backup-run.js';
import { archiveIn } from '../store/archive-files.js';

const item = (path: string, bytes: number, mark: string): NewItem => ({
  class: 'notes',
  kind: 'file',
  path,
  bytes,
  modified: '2026-01-02T03:04:05.000Z',
  mode: 0o644,
  mark,
});

function begin(folder: string, events: Partial<BackupEvents> = {}): Promise<BackupRun> {
  return BackupRun.begin({
    ...{ files: archiveIn(folder), secret: withIt, escrow: ESCROW, label: '', ticket: '' },
    ...{ device: null, threads: 0 },
    takenAt: new Date('2026-11-26T08:00:00Z'),
    events,
  });
}

/** What a backup holds: the contents of each path, null for one that failed. */
async function held(folder: string): Promise<Record<string, string | null>> {
  return opened(folder, async (archive) => {
    const report = await verifyOpen(archive, { level: 'full', threads: 0 });
    expect(report.whole).toBe(true);
    const all: Record<string, string | null> = {};
    for await (const listed of archive.list((await archive.latest()).header.backup)) {
      const path = listed.type === 'item' ? listed.item.path : listed.failed.path;
      expect(all, 'each path once').not.toHaveProperty([path]);
      if (listed.type === 'failed') all[path] = null;
      else {
        const pieces: Uint8Array[] = [];
        for await (const piece of archive.contents(listed.item)) pieces.push(piece);
        all[path] = Buffer.concat(pieces).toString('latin1');
      }
    }
    return all;
  });
}

test('what a slow source gave is on its way before many came together', async () => {
  const clock = vi.spyOn(performance, 'now');
  try {
    await withFolder(async (folder) => {
      let bytes = 0;
      const run = await begin(join(folder, 'archive'), { bytes: (count) => (bytes += count) });
      for (let n = 0; n < 4; n++) {
        clock.mockReturnValue(5000 + n * 600);
        await run.addContents(item(`${n}`, 10, '1'), () => [Buffer.alloc(10, n)]);
      }
      // The first three, 1.2 s after the first of them; the fourth waits for others.
      await expect.poll(() => bytes).toBe(30);
      clock.mockRestore();
      await run.commit();
      expect(bytes).toBe(40);
      expect(Object.keys(await held(join(folder, 'archive')))).toEqual(['0', '1', '2', '3']);
    });
  } finally {
    clock.mockRestore();
  }
});

describe('a source that changed while it was read', () => {
  test('is in the backup as it was when it was looked at again', async () => {
    await withFolder(async (folder) => {
      const withdrawn: string[] = [];
      const run = await begin(join(folder, 'archive'), {
        withdrawn: ({ path, failed }) => withdrawn.push(`${path} ${failed}`),
      });
      const add = (path: string, text: string, mark: string) =>
        run.addContents(item(path, text.length, mark), () => [Buffer.from(text)]);
      await add('same', 'as ever', '1');
      await add('changed', 'before', '1');
      await add('gone', 'was here', '1');
      run.addFailure({ class: 'notes', path: 'failed', reason: 'changed' });
      run.addFailure({ class: 'notes', path: 'failing', reason: 'read-error' });
      await run.beginReview();
      expect(await run.stays(item('same', 7, '1'))).toBe(true);
      expect(await run.stays(item('changed', 6, '2'))).toBe(false);
      await add('changed', 'after!', '2');
      expect(await run.stays(item('failed', 5, '2'))).toBe(false);
      await add('failed', 'taken', '2');
      run.addFailure({ class: 'notes', path: 'failing', reason: 'read-error' });
      await add('new', 'just now', '1');
      const committed = await run.commit();
      expect(committed).toMatchObject({ items: 4, bytes: 7 + 6 + 5 + 8, failed: 1 });
      expect(withdrawn.sort()).toEqual([
        ...['changed false', 'failed true', 'failing true', 'gone false'],
      ]);
      expect(await held(join(folder, 'archive'))).toEqual({
        ...{ same: 'as ever', changed: 'after!', failed: 'taken', failing: null, new: 'just now' },
      });
    });
  });

  test('a long item that was begun again is there once, whole', async () => {
    await withFolder(async (folder) => {
      const run = await begin(join(folder, 'archive'));
      // Longer than one part of a list; what it is made of is sealed once.
      const long = (times: number) => Buffer.concat(Array(times).fill(randomBytes(2 ** 20)));
      const [before, after] = [long(70), long(68)];
      await run.addContents(item('long', before.length, '1'), () => [before]);
      await run.addContents(item('short', 1, '1'), () => [Buffer.from('x')]);
      await run.beginReview();
      expect(await run.stays(item('short', 1, '1'))).toBe(true);
      await run.addContents(item('long', after.length, '2'), () => [after]);
      await run.commit();
      const all = await held(join(folder, 'archive'));
      expect(Object.keys(all).sort()).toEqual(['long', 'short']);
      expect(all.long === after.toString('latin1')).toBe(true);
    });
  });

  test('an item that failed at the second look is taken again at the third, though it is as it was at the first', async () => {
    await withFolder(async (folder) => {
      const run = await begin(join(folder, 'archive'));
      const told = item('note', 4, '1');
      await run.addContents(told, () => [Buffer.from('here')]);
      await run.beginReview();
      run.addFailure({ class: 'notes', path: 'note', reason: 'read-error' });
      await run.beginReview();
      expect(await run.stays(told)).toBe(false);
      await run.addContents(told, () => [Buffer.from('here')]);
      expect(await run.commit()).toMatchObject({ items: 1, failed: 0 });
      expect(await held(join(folder, 'archive'))).toEqual({ note: 'here' });
    });
  });

  test('any looks, with anything changed in between: the last one counts', async () => {
    const state = fc.dictionary(
      fc.constantFrom('a', 'b', 'c', 'd', 'e/f'),
      fc.record({ text: fc.string({ maxLength: 8 }), fails: fc.boolean() }),
      { noNullPrototype: true },
    );
    await fc.assert(
      fc.asyncProperty(fc.array(state, { minLength: 1, maxLength: 4 }), async (states) => {
        await withFolder(async (folder) => {
          const run = await begin(join(folder, 'archive'));
          for (const [look, now] of states.entries()) {
            if (look > 0) await run.beginReview();
            for (const [path, { text, fails }] of Object.entries(now)) {
              const told = item(path, Buffer.byteLength(text), `of ${text}`);
              if (look > 0 && !fails && (await run.stays(told))) continue;
              if (fails) run.addFailure({ class: 'notes', path, reason: 'read-error' });
              else await run.addContents(told, () => [Buffer.from(text)]);
            }
          }
          await run.commit();
          const last = states.at(-1) ?? {};
          const expected = Object.fromEntries(
            Object.entries(last).map(([path, { text, fails }]) => [
              path,
              fails ? null : Buffer.from(text).toString('latin1'),
            ]),
          );
          expect(await held(join(folder, 'archive'))).toEqual(expected);
        });
      }),
      { numRuns: 15 },
    );
  });
});
