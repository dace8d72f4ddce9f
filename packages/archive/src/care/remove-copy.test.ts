import { existsSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { archiveIn } from '../store/archive-files.js';
import { pack, refusal, withFolder, writeTree } from '../test-archives.js';
import { removeCopy } from './remove-copy.js';

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
