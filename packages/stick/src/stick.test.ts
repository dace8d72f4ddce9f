import {
  mkdirSync,
  mkdtempSync,
  openAsBlob,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  archiveIn,
  OpenArchive,
  packFolder,
  STICK_PAGE,
  withPassword,
  writeStick,
} from '@bright-cellar/archive';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { sealedFolder, type Readable } from './folder.js';
import { SealedBackup } from './sealed-backup.js';

const PASSWORD = 'brass kettle seven moths';
const root = mkdtempSync(join(tmpdir(), 'cellar-stick-'));
afterAll(() => rmSync(root, { recursive: true, force: true }));
const page = join(root, 'page.html');

const contents = new Map<string, Buffer>();
let archive: OpenArchive;
/** A backup of all but the longest, which takes long to be read as a browser does. */
let withoutLong = '';
beforeAll(async () => {
  const source = join(root, 'source');
  const put = (path: string, bytes: Buffer) => {
    mkdirSync(join(source, path, '..'), { recursive: true });
    writeFileSync(join(source, path), bytes);
    contents.set(path, bytes);
  };
  for (let n = 0; n < 300; n++) put(`notes/${n}.txt`, Buffer.from(`Note ${n}. `.repeat(n)));
  // Many chunks of text that is compressed.
  put(
    'documents/rows.csv',
    Buffer.from(Array.from({ length: 90_000 }, (_, n) => `${n},${n * n}`).join('\n')),
  );
  put('documents/empty.txt', Buffer.alloc(0));
  writeFileSync(page, '<!doctype html>page');
  const packed = () =>
    packFolder({
      ...{ files: archiveIn(join(root, 'archive')), secret: withPassword(PASSWORD) },
      ...{ source, label: 'all of it' },
    });
  withoutLong = (await packed()).backup;
  // More than one line of a list has.
  put('videos/long.bin', randomBytes(17 * 2 ** 20 + 12_345));
  await packed();
  archive = await OpenArchive.open(archiveIn(join(root, 'archive')), withPassword(PASSWORD), {
    lease: 'shared',
  });
});
afterAll(() => archive.close());

const written = async (to: string, more: Partial<Parameters<typeof writeStick>[0]> = {}) => {
  const { header } = await archive.latest();
  return writeStick({ archive, backup: header.backup, to, password: PASSWORD, page, ...more });
};

async function filesBelow(folder: string): Promise<Map<string, Readable>> {
  const files = new Map<string, Readable>();
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const path = join(entry.parentPath, entry.name);
    files.set(path.slice(folder.length + 1), await openAsBlob(path));
  }
  return files;
}

async function readBack(folder: string, password = PASSWORD): Promise<Map<string, Buffer>> {
  const sealed = sealedFolder(await filesBelow(folder));
  if (!sealed) throw new Error('nothing sealed is there');
  const backup = await SealedBackup.open(sealed, password);
  const all = new Map<string, Buffer>();
  for await (const item of backup.items()) {
    const pieces: Uint8Array[] = [];
    for await (const piece of backup.read(item)) pieces.push(piece);
    if (item.kind === 'file') all.set(item.path, Buffer.concat(pieces));
  }
  return all;
}

test('everything is on it, under a key of its own, and what reads it in a browser gives back every byte', async () => {
  const to = join(root, 'first');
  const seen: string[] = [];
  const { items, stickBytes } = await written(to, { onPhase: (phase) => seen.push(phase) });
  expect(seen[0]).toBe('exporting');
  expect(seen).toContain('comparing');
  const all = await readBack(to);
  expect([...all.keys()].sort()).toEqual([...contents.keys()].sort());
  for (const [path, bytes] of contents) expect(all.get(path)?.equals(bytes), path).toBe(true);
  expect(items).toBeGreaterThanOrEqual(contents.size);
  expect(readFileSync(join(to, STICK_PAGE), 'utf8')).toBe('<!doctype html>page');
  const sizes = readdirSync(to, { recursive: true, withFileTypes: true }).filter((one) =>
    one.isFile(),
  );
  const total = sizes.reduce((sum, one) => sum + statSync(join(one.parentPath, one.name)).size, 0);
  expect(Math.abs(total - stickBytes) / total).toBeLessThan(0.05);
  const idOf = (folder: string) =>
    (JSON.parse(readFileSync(join(folder, 'data/archive.json'), 'utf8')) as { archive: string })
      .archive;
  expect(idOf(join(to, 'sealed'))).not.toBe(idOf(join(root, 'archive')));
  // Whoever plugs it in elsewhere may read it.
  for (const one of sizes)
    expect(statSync(join(one.parentPath, one.name)).mode & 0o777).toBe(0o644);
  expect(readdirSync(to).sort()).toEqual([STICK_PAGE, 'read-this.txt', 'sealed']);
  // No name of anything stands on it in the clear.
  for (const one of sizes) expect(join(one.parentPath, one.name)).not.toContain('rows');
  await expect(readBack(to, 'another')).rejects.toMatchObject({
    problem: { code: 'wrong-password' },
  });
  await expect(written(to)).rejects.toMatchObject({ problem: { code: 'already-exists' } });
});

test('stopped in the middle it leaves nothing that looks whole, and the same press goes on', async () => {
  for (const after of [1, 301]) {
    const to = join(root, `stopped-${after}`);
    const stop = new AbortController();
    let items = 0;
    const stopped = written(to, {
      backup: withoutLong,
      signal: stop.signal,
      onProgress: (_, done) => {
        items += done;
        if (items >= after) stop.abort(new Error('stopped'));
      },
    });
    await expect(stopped).rejects.toThrow('stopped');
    expect(readdirSync(to)).not.toContain(STICK_PAGE);
    await written(to, { backup: withoutLong });
    expect((await readBack(to)).size).toBe(contents.size - 1);
  }
});

test('a medium that does not give back what it was given has no page, and is told', async () => {
  const to = join(root, 'bad');
  const spoiled = written(to, {
    backup: withoutLong,
    onPhase: (phase) => {
      const packs = join(to, 'sealed/data/packs');
      if (phase !== 'comparing') return;
      const [first = ''] = readdirSync(packs);
      truncateSync(join(packs, first), 1000);
    },
  });
  await expect(spoiled).rejects.toMatchObject({ problem: { code: 'archive-damaged' } });
  expect(readdirSync(to)).not.toContain(STICK_PAGE);
});

test('another folder, a missing file and a changed byte are told for what they are', async () => {
  const to = join(root, 'damaged');
  await written(to, { backup: withoutLong });
  const whole = sealedFolder(await filesBelow(to));
  if (!whole) throw new Error('nothing sealed is there');
  expect(sealedFolder(new Map())).toBe(null);
  for (const kind of ['packs', 'indexes', 'backups', 'rosters']) {
    const files = new Map(whole);
    for (const [name, file] of whole) {
      if (!name.startsWith(`data/${kind}/`)) continue;
      const bytes = new Uint8Array(await file.slice(0, file.size).arrayBuffer());
      bytes[bytes.length - 30] = (bytes[bytes.length - 30] ?? 0) ^ 1;
      files.set(name, new Blob([bytes]));
    }
    const readAll = async () => {
      const backup = await SealedBackup.open(files, PASSWORD);
      for await (const item of backup.items()) for await (const _ of backup.read(item));
    };
    await expect(readAll(), kind).rejects.toMatchObject({ problem: { code: 'archive-damaged' } });
  }
  const files = new Map(whole);
  const pack = [...files.keys()].find((name) => name.endsWith('.pack')) ?? '';
  files.delete(pack);
  expect((await SealedBackup.open(files, PASSWORD)).missing).toEqual([pack]);
});
