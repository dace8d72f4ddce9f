import { existsSync, linkSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { watchMedium } from '../disk/medium.js';
import { archiveIn } from '../store/archive-files.js';
import { pack, refusal, withFolder, writeTree } from '../test-archives.js';
import { destroyCopy, removeCopy } from './remove-copy.js';

test('a copy is removed where it is what was expected and nobody works with it, and only then', async () => {
  await withFolder(async (folder) => {
    const [source, rack] = [join(folder, 'source'), join(folder, 'rack')];
    mkdirSync(rack);
    await writeTree(source, { 'notes/1.txt': 'one' });
    const place = join(rack, 'one');
    const first = await pack(source, place);
    const expected = { archive: first.archive, digest: first.manifestDigest };
    await writeTree(source, { 'notes/2.txt': 'two' });
    const second = await pack(source, place, { takenAt: new Date(Date.now() + 1000) });
    const files = archiveIn(place);
    // Somebody added to it since.
    expect(await refusal(removeCopy(files, expected))).toBe('archive-changed');
    const now = { ...expected, digest: second.manifestDigest };
    const another = { ...now, archive: '00000000-0000-4000-8000-000000000000' };
    expect(await refusal(removeCopy(files, another))).toBe('archive-of-another');
    const reader = await files.lease('shared');
    expect(await refusal(removeCopy(files, now))).toBe('archive-in-use');
    await reader.release();
    expect(existsSync(place)).toBe(true);
    await removeCopy(files, now);
    await removeCopy(files, now);
    expect(readdirSync(rack)).toEqual(['.bright-cellar-lock']);
  });
});

test('a copy that is destroyed loses its keys first: what a medium still holds of the rest opens for nobody', async () => {
  await withFolder(async (folder) => {
    const [source, rack] = [join(folder, 'source'), join(folder, 'rack')];
    mkdirSync(rack);
    await writeTree(source, { 'notes/1.txt': 'one' });
    const place = join(rack, 'one');
    const { archive } = await pack(source, place);
    const files = archiveIn(place);
    const keyFolder = join(place, 'data/keys');
    const keys = readdirSync(keyFolder).map((name) => join(keyFolder, name));
    expect(keys.length).toBeGreaterThan(0);
    // A second name of the same bytes: what a medium keeps of a file that was removed.
    const kept = keys.map((path, n) => {
      linkSync(path, join(folder, `kept-${n}`));
      return { was: readFileSync(path), path: join(folder, `kept-${n}`) };
    });
    const order: string[] = [];
    watchMedium((step) => order.push(`${step.do} ${step.path.slice(rack.length + 1)}`));
    try {
      expect(await destroyCopy(files, archive)).toBe(true);
    } finally {
      watchMedium(null);
    }
    for (const { was, path } of kept) {
      expect(readFileSync(path)).toHaveLength(was.length);
      expect(readFileSync(path).equals(was)).toBe(false);
    }
    const lastKey = order.findLastIndex((step) => step.startsWith('remove one/data/keys/'));
    expect(lastKey).toBeGreaterThan(-1);
    expect(lastKey).toBeLessThan(order.findIndex((step) => step.startsWith('rename one')));
    expect(readdirSync(rack)).toEqual(['.bright-cellar-lock']);
    expect(await destroyCopy(files, archive)).toBe(false);
  });
});

test('what lies under the name of a copy and is another archive is not destroyed', async () => {
  await withFolder(async (folder) => {
    const [source, rack] = [join(folder, 'source'), join(folder, 'rack')];
    mkdirSync(rack);
    await writeTree(source, { 'notes/1.txt': 'one' });
    await pack(source, join(rack, 'one'));
    const another = '00000000-0000-4000-8000-000000000000';
    expect(await refusal(destroyCopy(archiveIn(join(rack, 'one')), another))).toBe(
      'archive-of-another',
    );
    expect(existsSync(join(rack, 'one'))).toBe(true);
  });
});
