import { existsSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { pack, withFolder, writeTree } from '../test-archives.js';
import { recordProof } from '../verify/proofs.js';
import { verifySealed } from '../verify/verify.js';
import { mkdirInside } from './medium.js';
import { archiveIn } from '../store/archive-files.js';

describe('a folder made inside another', () => {
  test('comes with those between them, and may be there already', async () => {
    await withFolder(async (root) => {
      await mkdirInside(root, join(root, 'a/b'), { mode: 0o700 });
      await mkdirInside(root, join(root, 'a/b/c'));
      await mkdirInside(root, join(root, 'a/b/c'));
      expect(existsSync(join(root, 'a/b/c'))).toBe(true);
      expect(statSync(join(root, 'a')).mode & 0o777).toBe(0o700);
    });
  });

  test('does not bring back the other one when that is gone', async () => {
    await withFolder(async (root) => {
      const gone = join(root, 'gone');
      await expect(mkdirInside(gone, join(gone, 'a'))).rejects.toThrow('ENOENT');
      expect(existsSync(gone)).toBe(false);
    });
  });
});

test('a proof whose drive left while it was read is not kept where the drive was mounted', async () => {
  await withFolder(async (folder) => {
    await writeTree(join(folder, 'source'), { 'notes/one.txt': 'one' });
    const archive = join(folder, 'archive');
    await pack(join(folder, 'source'), archive);
    const report = await verifySealed(archiveIn(archive), { level: 'bytes', threads: 0 });
    rmSync(archive, { recursive: true });
    await expect(recordProof(archiveIn(archive), report, new Date())).rejects.toThrow();
    expect(existsSync(archive)).toBe(false);
  });
});
