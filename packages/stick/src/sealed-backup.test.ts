import { openAsBlob, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createHash } from 'node:crypto';
import { expect, test } from 'vitest';
import { sealedFolder, type Readable } from './folder.js';
import { SealedBackup } from './sealed-backup.js';

/** The archive that docs/archive-format.md comes with. */
const VECTORS = fileURLToPath(new URL('../../../docs/test-vectors/archive-v1', import.meta.url));
const vectors = JSON.parse(readFileSync(join(VECTORS, 'vectors.json'), 'utf8')) as {
  archive: { password: string; contents: Record<string, string> };
};

async function chosen(): Promise<Map<string, Readable>> {
  const files = new Map<string, Readable>();
  for (const entry of readdirSync(VECTORS, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const path = join(entry.parentPath, entry.name);
    files.set(`stick/${path.slice(VECTORS.length + 1)}`, await openAsBlob(path));
  }
  return files;
}

const folder = async () => {
  const found = sealedFolder(await chosen());
  if (!found) throw new Error('no archive');
  return new Map(found);
};

test('what the pages of the formats describe is found below any folder, opened, and read to the byte', async () => {
  const backup = await SealedBackup.open(await folder(), vectors.archive.password);
  expect(backup.missing).toEqual([]);
  const contents: Record<string, string> = {};
  for await (const item of backup.items()) {
    if (item.kind !== 'file') continue;
    const hash = createHash('sha256');
    let bytes = 0;
    for await (const piece of backup.read(item)) {
      hash.update(piece);
      bytes += piece.length;
    }
    expect(bytes).toBe(item.bytes);
    contents[item.path] = hash.digest('hex');
    if (item.bytes < 2) continue;
    const range = { from: 1, to: item.bytes - 1 };
    let some = 0;
    for await (const piece of backup.read(item, range)) some += piece.length;
    expect(some).toBe(item.bytes - 2);
  }
  expect(contents).toMatchObject(vectors.archive.contents);
});
