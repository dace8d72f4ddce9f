import { randomBytes } from 'node:crypto';
import { readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { reindexArchive } from '../care/reindex.js';
import { pruneArchive } from '../care/prune.js';
import { namesOf } from '../open/archive-contents.js';
import {
  opened,
  pack,
  refusal,
  treeOf,
  withFolder,
  writeTree,
  payloadOf,
} from '../test-archives.js';
import { unpackBackup } from '../unpack/unpack.js';
import { recordProof } from '../verify/proofs.js';
import { verifyOpen } from '../verify/verify.js';
import { archiveIn } from '../store/archive-files.js';

const report = (folder: string) =>
  opened(folder, (archive) => verifyOpen(archive, { level: 'full', threads: 0 }));

function flip(path: string, at: number): void {
  const bytes = readFileSync(path);
  bytes.writeUInt8(bytes.readUInt8(at) ^ 1, at);
  writeFileSync(path, bytes);
}

async function restored(archive: string, backup: string, to: string) {
  rmSync(to, { recursive: true, force: true });
  const { damaged } = await opened(archive, (open) => unpackBackup({ archive: open, backup, to }));
  return { damaged, tree: treeOf(to) };
}

/** An archive of two backups, the second with more in it, and what they were taken of. */
async function withTwo(
  use: (at: { archive: string; source: string; folder: string; first: string }) => Promise<void>,
): Promise<void> {
  await withFolder(async (folder) => {
    const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
    await writeTree(source, {
      'photographs/a.jpg': randomBytes(900_000),
      'photographs/b.jpg': randomBytes(500_000),
      'notes/1.txt': 'one',
    });
    const { backup: first } = await pack(source, archive);
    await writeTree(source, { 'photographs/c.jpg': randomBytes(400_000) });
    await pack(source, archive);
    await use({ archive, source, folder, first });
  });
}
const largest = async (archive: string) =>
  namesOf('pack', await payloadOf(archive)).sort(
    (a, b) => statSync(join(archive, b)).size - statSync(join(archive, a)).size,
  )[0] ?? '';

describe('a further backup into a damaged archive', () => {
  test.each([
    ['a bit flipped', (path: string) => flip(path, 300_000)],
    ['cut short', (path: string) => truncateSync(path, 200_000)],
    ['gone', (path: string) => rmSync(path)],
  ])('mends a pack that has %s, with what the source still has', async (_, damage) => {
    await withTwo(async ({ archive, source, folder, first }) => {
      damage(join(archive, await largest(archive)));
      const before = await report(archive);
      expect(before.whole).toBe(false);
      await recordProof(archiveIn(archive), before, new Date());
      const third = await pack(source, archive);
      // What was lost was read again: not "0 new".
      expect(third.newBytes).toBeGreaterThan(0);
      const after = await report(archive);
      expect(after).toMatchObject({ whole: true, damagedFiles: [] });
      const tree = treeOf(source);
      expect(await restored(archive, third.backup, join(folder, 'out'))).toEqual({
        damaged: [],
        tree,
      });
      // The earlier one shares its chunks: it is whole again too.
      expect((await restored(archive, first, join(folder, 'out'))).damaged).toEqual([]);
    });
  });

  test('whose source has less now: the new backup is whole, and what is lost of the old one is named', async () => {
    await withTwo(async ({ archive, source, folder, first }) => {
      rmSync(join(archive, await largest(archive)));
      rmSync(join(source, 'photographs/a.jpg'));
      const third = await pack(source, archive);
      const after = await report(archive);
      expect(after.damagedFiles).toEqual([]);
      const outcome = Object.fromEntries(
        (after.contents?.backups ?? []).map(({ backup, whole }) => [backup, whole]),
      );
      expect(outcome).toMatchObject({ [third.backup]: true, [first]: false });
      expect((await restored(archive, first, join(folder, 'out'))).damaged).toEqual([
        'photographs/a.jpg',
      ]);
    });
  });

  test('whose newest list is damaged is read anew as a whole', async () => {
    await withTwo(async ({ archive, source, folder }) => {
      for (const name of namesOf('backup', await payloadOf(archive))) flip(join(archive, name), 60);
      const third = await pack(source, archive);
      const { tree } = await restored(archive, third.backup, join(folder, 'out'));
      expect(tree).toEqual(treeOf(source));
    });
  });

  test.each([
    ['gone', (path: string) => rmSync(path)],
    ['damaged', (path: string) => flip(path, 50)],
  ])('writes an index that is %s anew, and stores nothing twice', async (_, damage) => {
    await withTwo(async ({ archive, source }) => {
      for (const name of namesOf('index', await payloadOf(archive))) damage(join(archive, name));
      const third = await pack(source, archive);
      expect(third.newBytes).toBe(0);
      expect(await report(archive)).toMatchObject({ whole: true, damagedFiles: [] });
    });
  });
});

describe('lost indexes', () => {
  test('do not keep anything from being restored: their packs are read through', async () => {
    await withTwo(async ({ archive, source, folder }) => {
      for (const name of namesOf('index', await payloadOf(archive))) rmSync(join(archive, name));
      const newest = await opened(archive, async (open) => (await open.latest()).header.backup);
      const { damaged, tree } = await restored(archive, newest, join(folder, 'out'));
      expect(damaged).toEqual([]);
      expect(tree).toEqual(treeOf(source));
    });
  });

  test('are made again by a command; where none is lost it changes nothing', async () => {
    await withTwo(async ({ archive }) => {
      const [lost = '', other = ''] = namesOf('index', await payloadOf(archive));
      rmSync(join(archive, lost));
      const result = await opened(archive, (open) => reindexArchive(open));
      expect(result).toMatchObject({ damagedIndexes: [lost] });
      expect(result.rebuilt).not.toEqual([]);
      expect((await payloadOf(archive)).filter((name) => name === other)).toEqual([]);
      expect(await report(archive)).toMatchObject({ whole: true, damagedFiles: [] });
      const again = await opened(archive, (open) => reindexArchive(open));
      expect(again).toEqual({ damagedIndexes: [], rebuilt: [] });
    });
  });
});

test('several kept backups all keep their chunks when others go', async () => {
  await withFolder(async (folder) => {
    const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
    const taken: { backup: string; tree: Record<string, string> }[] = [];
    for (let n = 0; n < 4; n++) {
      rmSync(source, { recursive: true, force: true });
      await writeTree(source, {
        'photographs/own.jpg': randomBytes(300_000),
        'notes/shared.txt': 'in all of them',
        [`notes/${n}.txt`]: `only in ${n}`,
      });
      taken.push({ backup: (await pack(source, archive)).backup, tree: treeOf(source) });
    }
    const keep = [taken[0], taken[2], taken[3]].flatMap((t) => (t ? [t] : []));
    await opened(archive, (open) =>
      pruneArchive(
        open,
        keep.map(({ backup }) => backup),
      ),
    );
    expect(await report(archive)).toMatchObject({ whole: true });
    for (const { backup, tree } of keep) {
      expect(await restored(archive, backup, join(folder, 'out'))).toEqual({ damaged: [], tree });
    }
  });
});

test('pruning an archive in which a chunk is lost that is still needed changes nothing', async () => {
  await withTwo(async ({ archive, first }) => {
    rmSync(join(archive, await largest(archive)));
    for (const name of namesOf('index', await payloadOf(archive))) rmSync(join(archive, name));
    const before = await payloadOf(archive);
    expect(await refusal(opened(archive, (open) => pruneArchive(open, [first])))).toBe(
      'archive-damaged',
    );
    expect(await payloadOf(archive)).toEqual(before);
  });
});
