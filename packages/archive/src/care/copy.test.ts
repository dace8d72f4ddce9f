import { randomBytes } from 'node:crypto';
import {
  appendFileSync,
  readdirSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { namesOf } from '../open/archive-contents.js';
import { OpenArchive } from '../open/open-archive.js';
import { ArchiveFiles, archiveIn } from '../store/archive-files.js';
import { FolderStore } from '../store/folder-store.js';
import type { Incoming } from '../store/store.js';
import {
  opened,
  pack,
  payloadOf,
  quickly,
  refusal,
  sha512sumPasses,
  treeOf,
  withFolder,
  writeTree,
} from '../test-archives.js';
import { unpackBackup } from '../unpack/unpack.js';
import { verifyOpen } from '../verify/verify.js';
import { pruneArchive } from './prune.js';
import { copyArchive, discardCopy, type CopyOptions } from './copy.js';

interface Place {
  folder: string;
  source: string;
  /** The copy that is copied, and where the other goes. */
  first: string;
  second: string;
}

async function withArchive(use: (place: Place) => Promise<void>): Promise<void> {
  await withFolder(async (folder) => {
    const place = {
      folder,
      source: join(folder, 'source'),
      first: join(folder, 'alder/one'),
      second: join(folder, 'birch/other name'),
    };
    await mkdir(join(folder, 'alder'));
    await mkdir(join(folder, 'birch'));
    await writeTree(place.source, {
      'photographs/1.jpg': randomBytes(900_000),
      'notes/1.txt': 'one',
    });
    await pack(place.source, place.first);
    await use(place);
  });
}

const copy = ({ first, second }: Place, more: Partial<CopyOptions> = {}) =>
  copyArchive({ from: archiveIn(first), to: archiveIn(second), ...more });

async function expectWhole(place: Place): Promise<void> {
  expect(sha512sumPasses(place.second)).toBe(true);
  const report = await opened(place.second, (open) =>
    verifyOpen(open, { level: 'full', threads: 0 }),
  );
  expect(report).toMatchObject({ whole: true, damagedFiles: [] });
  expect(await payloadOf(place.second)).toEqual(await payloadOf(place.first));
  expect(readdirSync(place.second)).not.toContain('pending');
}

/** The names below a folder that somebody could mistake for something. */
const left = (folder: string) =>
  readdirSync(folder).filter((name) => name !== '.bright-cellar-lock');

test('a copy has what the archive has, opens, and says what was sent', async () => {
  await withArchive(async (place) => {
    const phases: [string, number][] = [];
    let done = 0;
    const copied = await copy(place, {
      onPhase: (phase, total) => phases.push([phase, total]),
      onProgress: (bytes) => (done += bytes),
    });
    const { payloadBytes } = copied;
    expect(copied.sent).toEqual({
      files: (await payloadOf(place.first)).length,
      bytes: payloadBytes,
    });
    expect(phases).toEqual([
      ['copying', payloadBytes],
      ['reading-back', payloadBytes],
    ]);
    expect(done).toBe(2 * payloadBytes);
    await expectWhole(place);
    const to = join(place.folder, 'out');
    await opened(place.second, async (archive) => {
      const { header } = await archive.latest();
      await unpackBackup({ archive, backup: header.backup, to });
    });
    expect(treeOf(to)).toEqual(treeOf(place.source));
  });
});

test('a copy is brought up to date by what is new, and by nothing where nothing is', async () => {
  await withArchive(async (place) => {
    const first = await copy(place);
    expect((await copy(place)).sent).toEqual({ files: 0, bytes: 0 });
    await writeTree(place.source, { 'notes/2.txt': 'two' });
    const { generation, manifestDigest } = await pack(place.source, place.first, {
      secret: quickly,
    });
    const next = await copy(place);
    expect(next).toMatchObject({ generation, manifestDigest, archive: first.archive });
    expect(next.sent.bytes).toBeLessThan(first.sent.bytes / 10);
    await expectWhole(place);
    // What goes from one goes from the other.
    await opened(place.first, (archive) =>
      pruneArchive(archive, [[...archive.roster.backups.keys()].at(-1) ?? '']),
    );
    await copy(place);
    await expectWhole(place);
  });
});

test('called off at any moment, nothing has its name, and the next try sends only what is missing', async () => {
  await withArchive(async (place) => {
    const files = await archiveIn(place.first).list('data/');
    const whole = files.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0);
    // Before the first file, between any two, and between any two that are read back.
    for (const last of [0, 1, 2, 3, files.length, files.length + 2]) {
      const stop = new AbortController();
      let pieces = 0;
      const pace = async () => {
        if (pieces++ >= Math.min(last, files.length - 1)) stop.abort();
      };
      await expect(copy(place, { signal: stop.signal, pace })).rejects.toThrow();
      expect(left(join(place.folder, 'birch'))).toEqual(['.unfinished-other name']);
    }
    const phases: number[] = [];
    await copy(place, { onPhase: (_, total) => phases.push(total) });
    // All of it was sent before.
    expect(phases).toEqual([0, whole]);
    await expectWhole(place);
  });
});

test('given up, nothing of it stays; an archive that was there stays as it was', async () => {
  await withArchive(async (place) => {
    const stopped = () => Promise.reject(new Error('stopped'));
    await expect(copy(place, { beforeDeciding: stopped })).rejects.toThrow('stopped');
    await discardCopy(archiveIn(place.second));
    expect(left(join(place.folder, 'birch'))).toEqual([]);
    await copy(place);
    await writeTree(place.source, { 'notes/2.txt': 'two' });
    await pack(place.source, place.first, { secret: quickly });
    await expect(copy(place, { beforeDeciding: stopped })).rejects.toThrow('stopped');
    await discardCopy(archiveIn(place.second));
    expect(readdirSync(place.second)).not.toContain('pending');
    expect(sha512sumPasses(place.second)).toBe(true);
  });
});

test('what was torn on its way is found when it is read back, and sent again', async () => {
  await withArchive(async (place) => {
    const stopped = () => Promise.reject(new Error('stopped'));
    await expect(copy(place, { beforeDeciding: stopped })).rejects.toThrow('stopped');
    const below = join(place.folder, 'birch/.unfinished-other name/pending/incoming');
    const [big = ''] = namesOf('pack', await payloadOf(place.first));
    const bytes = readFileSync(join(below, big));
    bytes.writeUInt8(bytes.readUInt8(1000) ^ 1, 1000);
    writeFileSync(join(below, big), bytes);
    truncateSync(join(below, 'data/archive.json'), 5);
    expect(await refusal(copy(place))).toBe('not-read-back');
    expect(left(join(place.folder, 'birch'))).toEqual(['.unfinished-other name']);
    await copy(place);
    await expectWhole(place);
  });
});

test('a damaged archive is not copied, and says so', async () => {
  await withArchive(async (place) => {
    const [big = ''] = namesOf('pack', await payloadOf(place.first));
    const bytes = readFileSync(join(place.first, big));
    bytes.writeUInt8(bytes.readUInt8(1000) ^ 1, 1000);
    writeFileSync(join(place.first, big), bytes);
    const refused = await copy(place).catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(Failure);
    expect(refused).toMatchObject({ problem: { code: 'archive-damaged' } });
    expect((refused as Failure).problem.what).toContain(big);
    rmSync(join(place.first, big));
    expect(await refusal(copy(place))).toBe('archive-damaged');
    appendFileSync(join(place.first, 'manifest-sha512.txt'), '\n');
    expect(await refusal(copy(place))).toBe('archive-damaged');
    expect(left(join(place.folder, 'birch'))).toEqual(['.unfinished-other name']);
  });
});

test('a roster that is damaged is not blamed on the rack that it was sent to', async () => {
  await withArchive(async (place) => {
    const [roster = ''] = namesOf('roster', await payloadOf(place.first));
    const bytes = readFileSync(join(place.first, roster));
    bytes.writeUInt8(bytes.readUInt8(60) ^ 1, 60);
    writeFileSync(join(place.first, roster), bytes);
    expect(await refusal(copy(place))).toBe('archive-damaged');
  });
});

test('a copy is not made into another archive, nor over a newer state of the same', async () => {
  await withArchive(async (place) => {
    await pack(place.source, place.second);
    const before = await payloadOf(place.second);
    expect(await refusal(copy(place))).toBe('archive-of-another');
    expect(await payloadOf(place.second)).toEqual(before);
    const third = { ...place, second: join(place.folder, 'birch/third') };
    await copy(third);
    await pack(place.source, third.second, { secret: quickly });
    expect(await refusal(copy(third))).toBe('archive-changed');
    expect(sha512sumPasses(third.second)).toBe(true);
  });
});

test('an archive is copied while it is read and while a backup is added to it: the copy is the state that it had', async () => {
  await withArchive(async (place) => {
    const from = archiveIn(place.first);
    const reader = await OpenArchive.open(from, quickly, { threads: 0, lease: 'shared' });
    const before = reader.digest;
    await writeTree(place.source, { 'notes/2.txt': 'two' });
    const added: Promise<unknown>[] = [];
    const copied = await copy(place, {
      pace: async () => {
        if (added.length === 0) added.push(pack(place.source, place.first, { secret: quickly }));
        await Promise.all(added);
      },
    });
    await reader.close();
    expect(copied.manifestDigest).toBe(before);
    expect(sha512sumPasses(place.second)).toBe(true);
    // It is stale, and the next brings the rest.
    expect((await copy(place)).generation).toBe(copied.generation + 1);
    await expectWhole(place);
  });
});

test('a rack that is full takes no copy, and keeps what it has', async () => {
  await withArchive(async (place) => {
    class Full extends FolderStore {
      override async incoming(archive: string): Promise<Incoming> {
        const real = await super.incoming(archive);
        return {
          open: (name) => real.open(name),
          list: () => real.list(),
          put: () => Promise.reject(Object.assign(new Error('full'), { code: 'ENOSPC' })),
          remove: (name) => real.remove(name),
          discard: () => real.discard(),
        };
      }
    }
    const to = new ArchiveFiles(new Full(join(place.folder, 'birch')), 'other name');
    expect(await refusal(copyArchive({ from: archiveIn(place.first), to }))).toBe('rack-full');
    expect(left(join(place.folder, 'birch'))).toEqual([]);
  });
});
