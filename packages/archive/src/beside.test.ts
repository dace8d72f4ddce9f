import { randomBytes } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { namesOf } from './open/archive-contents.js';
import { OpenArchive } from './open/open-archive.js';
import { compareWithArchive } from './pack/compare.js';
import { archiveIn } from './store/archive-files.js';
import {
  opened,
  pack,
  payloadOf,
  quickly,
  refusal,
  treeOf,
  withFolder,
  writeTree,
} from './test-archives.js';
import { unpackBackup } from './unpack/unpack.js';
import { verifyOpen, verifySealed } from './verify/verify.js';

/** What is read of an archive while something is added to it. */

const options = { threads: 0, lease: 'shared' } as const;

/** A file whose pack has a bit flipped. */
function damage(path: string): void {
  const bytes = readFileSync(path);
  bytes.writeUInt8(bytes.readUInt8(bytes.length >> 1) ^ 1, bytes.length >> 1);
  writeFileSync(path, bytes);
}

test('an archive that is read stays what it was when it was opened, though backups are added to it', async () => {
  await withFolder(async (folder) => {
    const [source, path, to] = ['source', 'archive', 'to'].map((name) => join(folder, name));
    if (!source || !path || !to) throw new Error('no folder');
    await writeTree(source, { 'notes/1.txt': 'one', 'photographs/1.jpg': randomBytes(900_000) });
    const { backup, generation } = await pack(source, path);
    const before = treeOf(source);
    const files = archiveIn(path);
    const reader = await OpenArchive.open(files, quickly, options);
    try {
      await writeTree(source, { 'notes/1.txt': 'another', 'notes/2.txt': 'two' });
      const next = await pack(source, path, { secret: quickly });
      expect(next.generation).toBe(generation + 1);
      await unpackBackup({ archive: reader, backup, to });
      expect(treeOf(to)).toEqual(before);
      // Whoever comes meanwhile finds what is there now.
      const late = await OpenArchive.open(files, quickly, options);
      expect([...late.roster.backups.keys()]).toEqual([backup, next.backup]);
      await late.close();
      // It is looked at as it is now.
      const report = await verifyOpen(reader, { level: 'full', threads: 0 });
      expect(report).toMatchObject({ whole: true, manifestDigest: next.manifestDigest });
      expect(report.contents?.backups.map(({ whole }) => whole)).toEqual([true, true]);
    } finally {
      await reader.close();
    }
  });
});

test('looks at an archive find nothing wrong with it while backups are added to it, again and again', async () => {
  await withFolder(async (folder) => {
    const [source, path] = [join(folder, 'source'), join(folder, 'archive')];
    await writeTree(source, { 'notes/0.txt': 'none', 'photographs/1.jpg': randomBytes(300_000) });
    await pack(source, path);
    const files = archiveIn(path);
    let adding = true;
    let looks = 0;
    const found: string[] = [];
    const look = async (verify: () => Promise<{ whole: boolean; damagedFiles: string[] }>) => {
      while (adding) {
        const { whole, damagedFiles } = await verify();
        if (!whole) found.push(...damagedFiles);
        looks += 1;
      }
    };
    const withKey = async () => {
      const archive = await OpenArchive.open(files, quickly, options);
      try {
        return await verifyOpen(archive, { level: 'full', threads: 0 });
      } finally {
        await archive.close();
      }
    };
    const none = (async function* () {})();
    const looking = Promise.all([
      look(withKey),
      look(() => verifySealed(files, { level: 'bytes', threads: 0 })),
      look(async () => {
        await compareWithArchive(files, quickly, none);
        return { whole: true, damagedFiles: [] };
      }),
    ]);
    try {
      for (let n = 1; n <= 12; n++) {
        await writeTree(source, { [`notes/${n}.txt`]: `${n}` });
        await pack(source, path, { secret: quickly });
      }
    } finally {
      adding = false;
      await looking;
    }
    expect(found).toEqual([]);
    expect(looks).toBeGreaterThan(12);
    await opened(path, async ({ roster }) => expect(roster.backups.size).toBe(13));
  });
});

test('damage that is there is found beside a backup too', async () => {
  await withFolder(async (folder) => {
    const [source, path] = [join(folder, 'source'), join(folder, 'archive')];
    await writeTree(source, { 'photographs/1.jpg': randomBytes(900_000) });
    await pack(source, path);
    const [first = ''] = namesOf('pack', await payloadOf(path));
    const reader = await OpenArchive.open(archiveIn(path), quickly, options);
    try {
      damage(join(path, first));
      await writeTree(source, { 'notes/1.txt': 'one' });
      const added: Promise<unknown>[] = [];
      const report = await verifyOpen(reader, {
        level: 'full',
        threads: 0,
        // In the middle of the look.
        onPhase: (phase) => {
          if (phase === 'checking') added.push(pack(source, path, { secret: quickly }));
        },
      });
      await Promise.all(added);
      expect(report.damagedFiles).toEqual([first]);
      expect(report.contents?.backups.map(({ whole }) => whole)).toEqual([false]);
    } finally {
      await reader.close();
    }
  });
});

test('an archive that has to be mended is left alone as long as somebody reads it', async () => {
  await withFolder(async (folder) => {
    const [source, path] = [join(folder, 'source'), join(folder, 'archive')];
    await writeTree(source, { 'photographs/1.jpg': randomBytes(900_000), 'notes/1.txt': 'one' });
    await pack(source, path);
    const files = archiveIn(path);
    const [pack1 = ''] = namesOf('pack', await payloadOf(path));
    await files.remove(pack1);
    const reader = await OpenArchive.open(files, quickly, options);
    expect(await refusal(pack(source, path, { secret: quickly }))).toBe('archive-in-use');
    expect(await payloadOf(path)).toEqual([...reader.names].filter((name) => name !== pack1));
    await reader.close();
    await pack(source, path, { secret: quickly });
    const report = await opened(path, (open) => verifyOpen(open, { level: 'full', threads: 0 }));
    expect(report.whole).toBe(true);
  });
});
