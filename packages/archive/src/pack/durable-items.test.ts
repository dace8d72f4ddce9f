import { join } from 'node:path';
import { createHash, randomBytes } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import type { ItemRecord, NewItem } from '../format/backup-lines.js';
import { ESCROW, opened, withFolder, withIt } from '../test-archives.js';
import { archiveIn } from '../store/archive-files.js';
import { BackupRun } from './backup-run.js';
import type { DurableItems } from './durable-items.js';

const item = (path: string, contents: Uint8Array, mark = path): NewItem => ({
  ...{ class: 'notes', kind: 'file', path, bytes: contents.length, mark, mode: 0o644 },
  modified: '2026-01-02T03:04:05.000Z',
});

async function begin(folder: string): Promise<{ run: BackupRun; durable: DurableItems }> {
  const run = await BackupRun.begin({
    ...{ files: archiveIn(folder), secret: withIt, escrow: ESCROW, label: '', ticket: '' },
    ...{ device: null, threads: 0, isFollowed: true },
    takenAt: new Date('2026-11-29T08:00:00Z'),
  });
  if (!run.durable) throw new Error('it was not asked for');
  return { run, durable: run.durable };
}

async function read(durable: DurableItems, record: ItemRecord): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  for await (const piece of durable.contents(record)) pieces.push(piece);
  return Buffer.concat(pieces);
}

/** Takes so many of those that are durable; with digests of their contents. */
async function taken(durable: DurableItems, count: number): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for await (const record of durable.items(AbortSignal.timeout(20_000))) {
    found.set(record.path, digest(await read(durable, record)));
    if (found.size === count) break;
  }
  return found;
}

const digest = (contents: Uint8Array) => createHash('sha256').update(contents).digest('hex');
const add = (run: BackupRun, path: string, contents: Uint8Array) =>
  run.addContents(item(path, contents), () => [contents]);

describe('what is durable of a backup that is being taken', () => {
  test('is given with its contents before anything is decided, in the order in which it was taken', async () => {
    await withFolder(async (folder) => {
      const { run, durable } = await begin(join(folder, 'archive'));
      const long = randomBytes(3_000_000);
      const all = new Map([
        ['a', Buffer.from('first')],
        ['empty', Buffer.alloc(0)],
        ['long', long],
        ['again', long],
      ]);
      const found = taken(durable, all.size);
      for (const [path, contents] of all) await add(run, path, contents);
      await run.flush();
      expect([...(await found)]).toEqual([...all].map(([path, its]) => [path, digest(its)]));
      await run.commit();
      await opened(join(folder, 'archive'), async (archive) => {
        expect((await archive.latest()).end.items).toBe(4);
      });
    });
  });

  test('is also what the archive had before, and what an earlier run had taken', async () => {
    await withFolder(async (folder) => {
      const known = randomBytes(200_000);
      const before = await begin(join(folder, 'archive'));
      await add(before.run, 'known', known);
      await before.run.commit();

      const backup = '3f0c6f0e-55c0-4a5e-9f5d-0d3f7a4f6d11';
      const again = () =>
        BackupRun.begin({
          ...{ files: archiveIn(join(folder, 'archive')), secret: withIt, label: '', ticket: '' },
          ...{ device: null, threads: 0, isFollowed: true, backup },
          takenAt: new Date('2026-11-29T09:00:00Z'),
        });
      const cut = await again();
      const begun = randomBytes(100_000);
      await add(cut, 'begun', begun);
      await cut.suspend();

      const run = await again();
      const { durable } = run;
      if (!durable) throw new Error('it was not asked for');
      const found = taken(durable, 2);
      await add(run, 'known', known);
      await add(run, 'begun', begun);
      await run.flush();
      expect(await found).toEqual(
        new Map([
          ['known', digest(known)],
          ['begun', digest(begun)],
        ]),
      );
      await run.discard();
    });
  });

  test('ends when the backup is decided or given up: whoever waits is not left waiting', async () => {
    await withFolder(async (folder) => {
      const { run, durable } = await begin(join(folder, 'archive'));
      const found = taken(durable, 9);
      await add(run, 'one', randomBytes(1000));
      await run.commit();
      // Whether it came that far before is a matter of moments.
      expect((await found).size).toBeLessThanOrEqual(1);
      expect(durable.isOver).toBe(true);

      const next = await begin(join(folder, 'archive'));
      const none = taken(next.durable, 9);
      await next.run.suspend();
      expect((await none).size).toBe(0);
      const stopped = new AbortController();
      const last = await begin(join(folder, 'other'));
      const waiting = last.durable.items(stopped.signal).next();
      stopped.abort(new Error('stopped'));
      await expect(waiting).rejects.toThrow('stopped');
      await last.run.discard();
    });
  });
});
