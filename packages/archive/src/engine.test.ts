import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { appendFileSync, closeSync, openSync, statSync, truncateSync, writeSync } from 'node:fs';
import { chmod, mkdir, readdir, rename, rm, symlink, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { namesOf } from './open/archive-contents.js';
import type { NewItem } from './format/backup-lines.js';
import { exportPackage } from './package/export.js';
import { importPackage } from './package/import.js';
import { BackupRun } from './pack/backup-run.js';
import {
  ESCROW,
  IDENTITY,
  opened,
  pack,
  PASSWORD,
  quickly,
  refusal,
  sha512sumPasses,
  treeOf,
  withFolder,
  withIt,
  writeTree,
} from './test-archives.js';
import { unpackBackup } from './unpack/unpack.js';
import { verifyOpen } from './verify/verify.js';
import { archiveIn } from './store/archive-files.js';

const unpacked = (folder: string, to: string, backup?: string) =>
  opened(folder, async (archive) => {
    const newest = (await archive.backups()).summaries.at(-1)?.header.backup ?? '';
    return unpackBackup({ archive, backup: backup ?? newest, to });
  });

/** Names that file systems take and programs trip over. */
const nameArbitrary = fc.oneof(
  fc.constantFrom(
    '-rf',
    ' ',
    'a b',
    "it's",
    '$(x)',
    'new\nline',
    'Grüße',
    '山本',
    'े',
    '🏺',
    'é',
    'é',
  ),
  fc
    .uint8Array({ minLength: 1, maxLength: 40 })
    .map((bytes) =>
      Buffer.from(bytes.map((b) => (b === 0 || b === 47 ? 95 : b))).toString('latin1'),
    )
    .filter((name) => name !== '.' && name !== '..'),
);
const treeArbitrary = fc.dictionary(
  fc.array(nameArbitrary, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/')),
  fc.record({
    contents: fc.oneof(
      fc.constant(Buffer.alloc(0)),
      fc.uint8Array({ maxLength: 2000 }).map((b) => Buffer.from(b)),
      fc.integer({ min: 1, max: 3_000_000 }).map((n) => randomBytes(n)),
      fc.integer({ min: 1, max: 3_000_000 }).map((n) => Buffer.alloc(n, 'row of a table; ')),
    ),
    mode: fc.constantFrom(0o644, 0o600, 0o755, 0o444),
    seconds: fc.integer({ min: 0, max: 4_000_000_000 }),
  }),
  { maxKeys: 12 },
);

describe('any tree', () => {
  test('goes in and comes out the same: names, contents, modes and times', async () => {
    await fc.assert(
      fc.asyncProperty(treeArbitrary, async (tree) => {
        await withFolder(async (folder) => {
          const source = join(folder, 'source');
          await mkdir(source);
          for (const [path, { contents, mode, seconds }] of Object.entries(tree)) {
            const name = Buffer.from(path, 'latin1');
            const full = Buffer.concat([Buffer.from(`${source}/`), name]);
            const parent = full.subarray(0, full.lastIndexOf('/'));
            // A name can be both a file and a folder of the tree: the first stays.
            await mkdir(parent, { recursive: true }).catch(() => undefined);
            await writeFile(full, contents, { flag: 'wx' }).then(
              async () => {
                await chmod(full, mode);
                await utimes(full, seconds, seconds);
              },
              () => undefined,
            );
          }
          const archive = join(folder, 'archive');
          await pack(source, archive);
          expect(sha512sumPasses(archive)).toBe(true);
          await unpacked(archive, join(folder, 'out'));
          expect(treeOf(join(folder, 'out'))).toEqual(treeOf(source));
        });
      }),
      { numRuns: 10, endOnFailure: true },
    );
  });

  test('with links that lead anywhere: they come out as links, and nothing outside is touched', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      await writeTree(source, { 'real/file': 'x', 'real/deep/file': 'y' });
      await symlink('/etc', join(source, 'a'));
      await symlink('../..', join(source, 'real/up'));
      await symlink('nowhere', join(source, 'z'));
      await pack(source, join(folder, 'archive'));
      const result = await unpacked(join(folder, 'archive'), join(folder, 'out'));
      expect(result).toMatchObject({ damaged: [] });
      expect(treeOf(join(folder, 'out'))).toEqual(treeOf(source));
    });
  });

  test('a sparse file takes little room, in the archive and after', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      await mkdir(source);
      const path = join(source, 'disk image');
      writeFileAt(path, 40_000_000, 'in the middle');
      truncateSync(path, 100_000_001);
      const { storedBytes } = await pack(source, join(folder, 'archive'));
      expect(storedBytes).toBeLessThan(100_000);
      await unpacked(join(folder, 'archive'), join(folder, 'out'));
      const out = join(folder, 'out/disk image');
      expect(execFileSync('cmp', [path, out]).toString()).toBe('');
      expect(statSync(out).blocks * 512).toBeLessThan(10_000_000);
    });
  });

  test('a path longer than the system’s own limit for one call is refused by the system, not lost silently', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      const long = Array.from({ length: 14 }, (_, i) => `${i}`.padEnd(250, 'n')).join('/');
      await writeTree(source, { [`${long}/file`]: 'deep' });
      const committed = await pack(source, join(folder, 'archive'));
      expect(committed).toMatchObject({ items: 15, failed: 0 });
    });
  });
});

function writeFileAt(path: string, at: number, text: string): void {
  const fd = openSync(path, 'w');
  writeSync(fd, text, at);
  closeSync(fd);
}

describe('what a file system can hold and programs forget', () => {
  test('times before 1970 and after 2242, mode 000, times of links: come out as they were', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      await writeTree(source, { 'notes/old': 'o', 'notes/new': 'n', 'notes/closed': 'c' });
      await mkdir(join(source, 'notes/shut'));
      await symlink('old', join(source, 'notes/link'));
      const set = (name: string, time: string) =>
        execFileSync('touch', ['-h', '-d', time, join(source, 'notes', name)]);
      set('old', '1950-03-01 12:00:00.25 UTC');
      set('new', '2300-01-01 00:00:00.5 UTC');
      set('link', '1969-12-31 23:59:59.125 UTC');
      set('closed', '2026-01-01 00:00:00.123456 UTC');
      await chmod(join(source, 'notes/closed'), 0);
      await chmod(join(source, 'notes/shut'), 0);
      set('shut', '1960-01-01 00:00:00.5 UTC');
      const exactly = (root: string) =>
        execFileSync('find', ['.', '-printf', '%P %T@ %m %y\n'], { cwd: join(root, 'notes') })
          .toString()
          .split('\n')
          .filter((line) => !line.startsWith(' '))
          .sort();
      const archive = join(folder, 'archive');
      await pack(source, archive);
      await unpacked(archive, join(folder, 'out'));
      expect(exactly(join(folder, 'out'))).toEqual(exactly(source));
    });
  });

  test('bits that let a program run as somebody else come back only where they are asked for', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      await writeTree(source, { 'documents/tool': '#!' });
      await chmod(join(source, 'documents/tool'), 0o6755);
      await pack(source, join(folder, 'archive'));
      const modeOf = (out: string) =>
        statSync(join(folder, out, 'documents/tool'))
          .mode.toString(8)
          .slice(-4);
      await unpacked(join(folder, 'archive'), join(folder, 'out'));
      expect(modeOf('out')).toBe('0755');
      await opened(join(folder, 'archive'), async (archive) =>
        unpackBackup({
          archive,
          backup: (await archive.latest()).header.backup,
          to: join(folder, 'asked'),
          special: true,
        }),
      );
      expect(modeOf('asked')).toBe('6755');
    });
  });

  test('paths that nothing could be written to are refused on the way in, and all others come out', async () => {
    await withFolder(async (folder) => {
      const failed: string[] = [];
      const run = await BackupRun.begin({
        ...{ files: archiveIn(join(folder, 'archive')), secret: withIt, escrow: ESCROW, label: '' },
        ...{ ticket: '', device: null, takenAt: new Date(), threads: 0 },
        events: { failed: ({ path, reason }) => failed.push(`${path.slice(0, 9)} ${reason}`) },
      });
      const paths = ['../out', '/abs', 'notes/a', 'notes/a', 'notes/a/b', 'notes', 'x'.repeat(300)];
      for (const path of paths) {
        await run.addContents(
          {
            ...{ class: 'notes', kind: 'file', path, bytes: 5, mode: 0o644, mark: '' },
            modified: '2026-01-02T03:04:05.000Z',
          },
          () => [Buffer.from('hello')],
        );
      }
      const committed = await run.commit();
      expect(committed).toMatchObject({ items: 1, failed: 6 });
      expect(new Set(failed.map((f) => f.split(' ')[1]))).toEqual(new Set(['unfit-name']));
      const result = await unpacked(join(folder, 'archive'), join(folder, 'out'));
      expect(result).toMatchObject({ items: 1, damaged: [] });
    });
  });
});

describe('a second backup', () => {
  test('stores only what changed, and both come out as they were', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      const database = Buffer.concat(
        Array.from({ length: 200 }, (_, i) =>
          Buffer.concat([randomBytes(20_000), Buffer.alloc(50, i)]),
        ),
      );
      await writeTree(source, {
        'applications/db': database,
        'photographs/1.jpg': randomBytes(3e6),
      });
      const first = await pack(source, archive);
      const before = treeOf(source);
      // A page of the database changes in place, some rows are inserted before it, and a photograph comes.
      database.write('changed', 2_000_000);
      const inserted = Buffer.concat([
        database.subarray(0, 1_000_000),
        Buffer.from('rows'),
        database.subarray(1_000_000),
      ]);
      await writeTree(source, {
        'applications/db': inserted,
        'photographs/2.jpg': randomBytes(1e6),
      });
      const second = await pack(source, archive, { secret: quickly });
      expect(second.newBytes).toBeLessThan(1e6 + 700_000);
      expect(second.bytes).toBe(first.bytes + 1e6 + 4);
      await unpacked(archive, join(folder, 'one'), first.backup);
      await unpacked(archive, join(folder, 'two'), second.backup);
      expect(treeOf(join(folder, 'two'))).toEqual(treeOf(source));
      const times = (tree: Record<string, string>) =>
        Object.values(tree).filter((line) => line.startsWith('file'));
      expect(times(treeOf(join(folder, 'one')))).toEqual(times(before));
    });
  });

  test('of the same thing stores nothing, and reads nothing again', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { a: randomBytes(500_000), 'b/c': 'text' });
      await pack(source, archive);
      let read = 0;
      const events = { bytes: (count: number) => (read += count) };
      const second = await pack(source, archive, { secret: quickly, events });
      expect(second).toMatchObject({ newBytes: 0, storedBytes: 0, newItems: 0, items: 3 });
      expect(read).toBe(0);
    });
  });

  test('contents that are there under another name are not stored again', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      const photograph = randomBytes(2_500_000);
      await writeTree(source, { 'photographs/1.jpg': photograph });
      await pack(source, archive);
      await rename(join(source, 'photographs/1.jpg'), join(source, 'moved.jpg'));
      await writeTree(source, { 'copy.jpg': photograph });
      const second = await pack(source, archive, { secret: quickly });
      expect(second).toMatchObject({ newBytes: 0, newItems: expect.any(Number) as number });
    });
  });
});

describe('contents that change while they are read', () => {
  test('are taken as they are at last, or named; never a mixture', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      await writeTree(source, { 'a.log': 'start', 'b.log': 'start', c: 'still' });
      const failed: string[] = [];
      let grown = 0;
      const committed = await pack(source, join(folder, 'archive'), {
        events: {
          failed: ({ path, reason }) => failed.push(`${path} ${reason}`),
          // Between the moment in which it was listed and that in which it is read, one grows for good.
          taken: () => {
            if (grown++ < 50) appendFileSync(join(source, 'b.log'), 'more');
          },
        },
      });
      expect(committed.items + committed.failed).toBe(3);
      await unpacked(join(folder, 'archive'), join(folder, 'out'));
      for (const path of failed) expect(path).toBe('b.log changed');
    });
  });
});

describe('who can open it', () => {
  test('the password and the escrow holder, nobody else; and a wrong one changes nothing', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { a: 'x' });
      await pack(source, archive);
      const wrong = { kind: 'password', password: `${PASSWORD}!` } as const;
      expect(await refusal(opened(archive, async () => undefined, wrong))).toBe('wrong-password');
      expect(await refusal(pack(source, archive, { secret: wrong }))).toBe('wrong-password');
      expect(await refusal(opened(archive, async () => undefined, withIt))).toBe('none');
      expect(await refusal(opened(archive, async () => undefined, quickly))).toBe('none');
      await pack(source, join(folder, 'alone'), { escrow: undefined } as never);
      expect(await refusal(opened(join(folder, 'alone'), async () => undefined))).toBe(
        'wrong-password',
      );
    });
  });

  test('equal contents of two archives have nothing in common', async () => {
    await withFolder(async (folder) => {
      const source = join(folder, 'source');
      await writeTree(source, { a: Buffer.alloc(900_000, 'the same rows; ') });
      const idsOf = async (name: string) => {
        const ids = new Set<string>();
        await pack(source, join(folder, name));
        await opened(join(folder, name), async (archive) => {
          const backup = (await archive.backups()).summaries[0]?.header.backup ?? '';
          for await (const { chunks } of archive.items(backup)) {
            for (let at = 0; at < chunks.length; at += 32) {
              ids.add(chunks.toString('hex', at, at + 32));
            }
          }
        });
        return ids;
      };
      // Within each, contents that recur may well be cut alike.
      const [one, two] = [await idsOf('one'), await idsOf('two')];
      expect(one.size).toBeGreaterThan(0);
      expect([...one].filter((id) => two.has(id))).toEqual([]);
    });
  });

  test('a second process on the same archive is refused, and the first goes on', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      await writeTree(source, { a: 'x' });
      await pack(source, archive);
      await opened(archive, async () => {
        expect(await refusal(pack(source, archive, { secret: quickly }))).toBe('archive-in-use');
        expect(await refusal(opened(archive, async () => undefined))).toBe('archive-in-use');
      });
      expect(await refusal(opened(archive, async () => undefined))).toBe('none');
    });
  });
});

describe('a run that ends early', () => {
  test('leaves nothing that looks whole, and goes on without reading again what was taken', async () => {
    await withFolder(async (folder) => {
      const [source, archive] = [join(folder, 'source'), join(folder, 'archive')];
      const files = Object.fromEntries(
        Array.from({ length: 40 }, (_, i) => [`photographs/${i}.jpg`, randomBytes(1_000_000)]),
      );
      await writeTree(source, { ...files, 'videos/long.mp4': randomBytes(90_000_000) });
      const stop = new AbortController();
      let taken = 0;
      const events = {
        bytes: (count: number) => {
          taken += count;
          if (taken > 100e6) stop.abort(new Error('enough'));
        },
      };
      const cut = pack(source, archive, { events, signal: stop.signal });
      await expect(cut).rejects.toThrow('enough');
      expect(await readdir(folder)).toEqual(expect.not.arrayContaining(['archive']));
      let again = 0;
      const committed = await pack(source, archive, {
        secret: quickly,
        events: { bytes: (count) => (again += count) },
      });
      // Within the long video too: less than a twentieth is read a second time.
      expect(taken + again - committed.bytes).toBeLessThan(taken * 0.05 + 8 * 2 ** 20);
      await unpacked(archive, join(folder, 'out'));
      expect(treeOf(join(folder, 'out'))).toEqual(treeOf(source));
      expect(
        await opened(archive, (a) => verifyOpen(a, { level: 'full', threads: 0 })),
      ).toMatchObject({
        whole: true,
      });
    });
  });

  // Only root may mount; elsewhere this says so rather than passing.
  test.skipIf(process.getuid?.() !== 0)(
    'because the disk is full: what was there before opens, and with room it goes on',
    async () => {
      await withFolder(async (folder) => {
        const source = join(folder, 'source');
        const rack = join(folder, 'rack');
        await mkdir(rack);
        execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', rack]);
        try {
          await writeTree(source, { first: randomBytes(2_000_000) });
          const archive = join(rack, 'archive');
          await pack(source, archive);
          await writeTree(source, { large: randomBytes(60_000_000) });
          expect(await refusal(pack(source, archive, { secret: quickly }))).toBe('rack-full');
          expect(sha512sumPasses(archive)).toBe(true);
          const report = await opened(archive, (a) => verifyOpen(a, { level: 'full', threads: 0 }));
          expect(report).toMatchObject({ whole: true });
          execFileSync('mount', ['-o', 'remount,size=100m', rack]);
          await pack(source, archive, { secret: quickly });
          await unpacked(archive, join(folder, 'out'));
          expect(treeOf(join(folder, 'out'))).toEqual(treeOf(source));
        } finally {
          execFileSync('umount', [rack]);
        }
      });
    },
  );
});

test('an archive that says a path outside is believed nothing', async () => {
  await withFolder(async (folder) => {
    const { safeParts } = await import('./format/names.js');
    for (const path of ['../x', '/x', 'a/../../x', 'a//b', './a', 'a/.', 'x\0y', '']) {
      expect(() => safeParts(path)).toThrow('outside');
    }
    await writeTree(join(folder, 'source'), { a: 'x' });
    await pack(join(folder, 'source'), join(folder, 'archive'));
    await writeTree(join(folder, 'full'), { there: 'already' });
    expect(await refusal(unpacked(join(folder, 'archive'), join(folder, 'full')))).toBe(
      'already-exists',
    );
    const names = await opened(join(folder, 'archive'), async ({ names: all }) => all);
    expect(namesOf('escrow', names)).toHaveLength(1);
    await rm(join(folder, 'full'), { recursive: true });
  });
});

test('what the source says that an item is stands in the archive, also of one that was not read again', async () => {
  await withFolder(async (folder) => {
    const files = archiveIn(join(folder, 'archive'));
    const card: NewItem = {
      ...{ class: 'contacts', kind: 'file', path: 'contacts/1.vcf', bytes: 5, mode: null },
      ...{ modified: '2026-01-02T03:04:05.000Z', mark: 'r1', format: 'text/vcard' },
    };
    for (let run = 0; run < 2; run++) {
      const taken = await BackupRun.begin({
        ...{ files, secret: withIt, escrow: ESCROW, label: '', ticket: '', device: null },
        ...{ takenAt: new Date(), threads: 0 },
      });
      expect(await taken.has(card)).toBe(run === 1);
      await taken.addContents(card, () => [Buffer.from('hello')]);
      const { format: _, ...unsaid } = { ...card, path: 'contacts/2', mark: '' };
      await taken.addContents(unsaid, () => [Buffer.from('there')]);
      const { backup } = await taken.commit();
      expect(await formatsIn(join(folder, 'archive'), backup)).toEqual(['text/vcard', undefined]);
      // Also of one that was taken along in a package.
      const file = join(folder, `package-${run}`);
      await opened(join(folder, 'archive'), (archive) =>
        exportPackage({ archive, backup, to: file, recipient: { recipient: ESCROW } }),
      );
      const back = await importPackage({
        ...{ from: file, packageSecret: { identity: IDENTITY }, secret: withIt },
        ...{ files: archiveIn(join(folder, `back-${run}`)), threads: 0 },
      });
      const other = await formatsIn(join(folder, `back-${run}`), back.backup);
      expect(other).toEqual(['text/vcard', undefined]);
    }
  });
});

async function formatsIn(folder: string, backup: string): Promise<(string | undefined)[]> {
  const formats: (string | undefined)[] = [];
  await opened(
    folder,
    async (open) => {
      for await (const { format } of open.items(backup)) formats.push(format);
    },
    withIt,
  );
  return formats;
}
