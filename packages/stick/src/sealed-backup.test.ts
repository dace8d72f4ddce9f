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

test('another password, another folder, a missing file and a changed byte are told for what they are', async () => {
  await expect(SealedBackup.open(await folder(), 'another')).rejects.toMatchObject({
    problem: { code: 'wrong-password' },
  });
  expect(sealedFolder(new Map())).toBe(null);
  const { password } = vectors.archive;
  for (const kind of ['packs', 'indexes', 'backups', 'rosters']) {
    const files = await folder();
    const names = [...files.keys()].filter((one) => one.startsWith(`data/${kind}/`)).sort();
    for (const name of names) {
      const bytes = new Uint8Array(await readAll(files.get(name)));
      bytes[bytes.length - 30] = (bytes[bytes.length - 30] ?? 0) ^ 1;
      files.set(name, new Blob([bytes]));
    }
    await expect(readWhole(files, password), kind).rejects.toMatchObject({
      problem: { code: 'archive-damaged' },
    });
  }
  const files = await folder();
  const pack = [...files.keys()].find((name) => name.endsWith('.pack')) ?? '';
  files.delete(pack);
  expect((await SealedBackup.open(files, password)).missing).toEqual([pack]);
});

const readAll = (file: Readable | undefined) =>
  file ? file.slice(0, file.size).arrayBuffer() : new ArrayBuffer(0);

async function readWhole(files: Map<string, Readable>, password: string): Promise<void> {
  const backup = await SealedBackup.open(files, password);
  for await (const item of backup.items()) for await (const _ of backup.read(item));
}
