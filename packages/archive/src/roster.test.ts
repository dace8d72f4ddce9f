import { randomBytes } from 'node:crypto';
import { cpSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { proofLevels, type ProofLevel } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import { changePassword, removeEscrow } from './care/holders.js';
import { MANIFEST, readManifest, sha512Of, tagFilesOf } from './format/bag.js';
import { namesOf, readArchiveId } from './open/archive-contents.js';
import {
  opened,
  pack,
  refusal,
  withFolder,
  withIt,
  writeTree,
  payloadOf,
} from './test-archives.js';
import { verifyOpen } from './verify/verify.js';
import { archiveIn } from './store/archive-files.js';

const report = (folder: string, level: ProofLevel = 'full') =>
  opened(folder, (archive) => verifyOpen(archive, { level, threads: 0 }));

/** What somebody without the password can do: computes the manifests anew over whatever is there now. */
async function coverUp(folder: string): Promise<void> {
  const names = await payloadOf(folder);
  const files = new Map(names.map((name) => [name, sha512Of(readFileSync(join(folder, name)))]));
  const bytes = names.reduce((sum, name) => sum + statSync(join(folder, name)).size, 0);
  const tags = tagFilesOf(await readArchiveId(archiveIn(folder)), files, bytes, '2026-11-26');
  for (const [name, text] of tags) writeFileSync(join(folder, name), text);
}

/** An archive of two backups, and how it was after the first. */
async function withTwo(
  use: (archive: string, older: string, backups: [string, string], folder: string) => Promise<void>,
): Promise<void> {
  await withFolder(async (folder) => {
    const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
    await writeTree(source, { 'notes/1.txt': 'one', 'photographs/a.jpg': randomBytes(300_000) });
    const first = await pack(source, archive);
    const older = join(folder, 'older');
    cpSync(archive, older, { recursive: true });
    await writeTree(source, { 'notes/2.txt': 'two', 'photographs/b.jpg': randomBytes(200_000) });
    const second = await pack(source, archive);
    expect([first.generation, second.generation]).toEqual([1, 2]);
    await use(archive, older, [first.backup, second.backup], folder);
  });
}

describe('whoever computes the manifests anew', () => {
  test('hides nothing that was taken away: lists, packs, indexes, key files, at any level', async () => {
    await withTwo(async (archive, _older, _backups, folder) => {
      const kinds = ['pack', 'index', 'backup', 'password'] as const;
      for (const kind of kinds) {
        for (const name of namesOf(kind, await payloadOf(archive))) {
          const copy = join(folder, 'copy');
          rmSync(copy, { recursive: true, force: true });
          cpSync(archive, copy, { recursive: true });
          rmSync(join(copy, name));
          await coverUp(copy);
          for (const level of proofLevels) {
            const found = await report(copy, level);
            expect(found.whole, `${name} at ${level}`).toBe(false);
            expect(found.damagedFiles).toContain(name);
          }
        }
      }
    });
  });

  test('and takes everything away but the keys: no backup is whole, and none is passed over', async () => {
    await withTwo(async (archive, _older, backups) => {
      for (const kind of ['pack', 'index', 'backup'] as const) {
        for (const name of namesOf(kind, await payloadOf(archive))) rmSync(join(archive, name));
      }
      await coverUp(archive);
      const { whole, contents } = await report(archive);
      expect(whole).toBe(false);
      expect(contents?.backups.map(({ backup, whole: w }) => [backup, w])).toEqual([
        [backups[0], false],
        [backups[1], false],
      ]);
      expect(contents?.damagedBackups).toEqual([...backups]);
    });
  });

  test('cannot take the roster away, nor put an earlier one in its place', async () => {
    await withTwo(async (archive, older) => {
      const [now = ''] = namesOf('roster', await payloadOf(archive));
      const [then = ''] = namesOf('roster', await payloadOf(older));
      rmSync(join(archive, now));
      await coverUp(archive);
      expect((await report(archive, 'structure')).whole).toBe(false);
      cpSync(join(older, then), join(archive, then));
      await coverUp(archive);
      const found = await report(archive);
      expect(found.whole).toBe(false);
      expect(found.contents?.generation).toBe(1);
      // Under the newer one's name it is not believed at all.
      rmSync(join(archive, then));
      cpSync(join(older, then), join(archive, now));
      await coverUp(archive);
      expect((await report(archive)).contents?.generation).toBeNull();
    });
  });

  test('an older state of the whole archive is whole, and says that it is the older one', async () => {
    await withTwo(async (archive, older, backups) => {
      const [now, then] = [await report(archive), await report(older)];
      expect([now.whole, then.whole]).toEqual([true, true]);
      expect([now.contents?.generation, then.contents?.generation]).toEqual([2, 1]);
      expect(then.manifestDigest).not.toBe(now.manifestDigest);
      expect(then.contents?.backups.map(({ backup }) => backup)).toEqual([backups[0]]);
    });
  });

  test('another archive under the same password is another one', async () => {
    await withTwo(async (archive, _older, _backups, folder) => {
      await writeTree(join(folder, 'else'), { 'notes/x.txt': 'x' });
      const other = join(folder, 'other');
      await pack(join(folder, 'else'), other);
      // Its contents below this archive's name.
      cpSync(join(archive, 'data/archive.json'), join(other, 'data/archive.json'));
      await coverUp(other);
      const found = await report(other);
      expect(found.whole).toBe(false);
      expect(found.contents?.generation).toBeNull();
      expect(found.contents?.backups.every(({ whole }) => !whole)).toBe(true);
    });
  });
});

describe('the newest backup', () => {
  test('is the one that there should be: with its list damaged or gone there is none', async () => {
    await withTwo(async (archive, _older, backups) => {
      expect(await opened(archive, async (open) => (await open.latest()).header.backup)).toBe(
        backups[1],
      );
      const name =
        namesOf('backup', await payloadOf(archive)).find((n) => n.includes(backups[1])) ?? '';
      const bytes = readFileSync(join(archive, name));
      bytes.writeUInt8(bytes.readUInt8(60) ^ 1, 60);
      writeFileSync(join(archive, name), bytes);
      const latest = () => opened(archive, async (open) => open.latest());
      expect(await refusal(latest())).toBe('archive-damaged');
      rmSync(join(archive, name));
      expect(await refusal(latest())).toBe('archive-damaged');
      await coverUp(archive);
      expect(await refusal(latest())).toBe('archive-damaged');
      const { summaries, damaged } = await opened(archive, async (open) => open.backups());
      expect(summaries.map(({ header }) => header.backup)).toEqual([backups[0]]);
      expect(damaged).toEqual([backups[1]]);
    });
  });

  test('is the one that came last, though the clock was set back since', async () => {
    await withTwo(async (archive, _older, backups, folder) => {
      const [before] = [await opened(archive, async (open) => (await open.latest()).header)];
      expect(before.backup).toBe(backups[1]);
      await writeTree(join(folder, 'later'), { 'notes/later.txt': 'later' });
      const takenAt = new Date(Date.parse(before.takenAt) - 86_400_000);
      const later = await pack(join(folder, 'later'), archive, { takenAt });
      const latest = await opened(archive, async (open) => (await open.latest()).header);
      expect(latest.backup).toBe(later.backup);
      expect(Date.parse(latest.takenAt)).toBe(Date.parse(before.takenAt) + 1);
    });
  });

  test('is not guessed where the roster is gone', async () => {
    await withTwo(async (archive) => {
      for (const name of namesOf('roster', await payloadOf(archive))) rmSync(join(archive, name));
      expect(await refusal(opened(archive, async (open) => open.latest()))).toBe('archive-damaged');
      // What is there still opens.
      expect((await opened(archive, async (open) => open.backups())).summaries).toHaveLength(2);
    });
  });
});

test('an archive whose roster is gone is not changed: nobody knows what would be left out', async () => {
  await withTwo(async (archive, _older, _backups, folder) => {
    for (const name of namesOf('roster', await payloadOf(archive))) rmSync(join(archive, name));
    expect(await refusal(pack(join(folder, 'source'), archive))).toBe('archive-damaged');
    expect(await refusal(opened(archive, (open) => removeEscrow(open)))).toBe('archive-damaged');
  });
});

test('a manifest that is damaged or forged is written anew by the next change, from the roster', async () => {
  await withTwo(async (archive) => {
    writeFileSync(join(archive, MANIFEST), 'rubbish\n');
    await opened(archive, (open) => changePassword(open, 'another four words here'));
    expect((await readManifest(archiveIn(archive))).size).toBeGreaterThan(5);
    expect(await report(archive)).toMatchObject({ whole: true, damagedFiles: [] });
  });
});

test('the shop’s key file can be taken away without the password, and does not come back by itself', async () => {
  await withTwo(async (archive, _older, _backups, folder) => {
    const [escrow = ''] = namesOf('escrow', await payloadOf(archive));
    const kept = readFileSync(join(archive, escrow));
    rmSync(join(archive, escrow));
    await coverUp(archive);
    const withPassword = (level: ProofLevel) =>
      opened(archive, (open) => verifyOpen(open, { level, threads: 0 }), withIt);
    expect((await withPassword('full')).whole).toBe(true);
    await writeTree(join(folder, 'source'), { 'notes/3.txt': 'three' });
    await pack(join(folder, 'source'), archive, { escrow: undefined as never });
    expect(namesOf('escrow', await payloadOf(archive))).toEqual([]);
    expect((await withPassword('full')).whole).toBe(true);
    // Put back by somebody who had kept it, it is in no roster any more.
    writeFileSync(join(archive, escrow), kept);
    await coverUp(archive);
    expect((await withPassword('full')).damagedFiles).toContain(escrow);
  });
});
