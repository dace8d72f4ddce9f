import { randomBytes, randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Failure, problemOf } from '@bright-cellar/core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { copyArchive } from '../../care/copy.js';
import { recoverArchive } from '../../care/recover.js';
import { destroyCopy, removeCopy } from '../../care/remove-copy.js';
import { repairFrom } from '../../care/repair.js';
import { OpenArchive } from '../../open/open-archive.js';
import { packFolder } from '../../pack/pack-folder.js';
import { ESCROW, quickly, withIt, writeTree } from '../../test-archives.js';
import { unpackBackup } from '../../unpack/unpack.js';
import { checkCopy } from '../../verify/copy-check.js';
import { verifyOpen, verifySealed } from '../../verify/verify.js';
import { archiveIn, ArchiveFiles } from '../archive-files.js';
import type { StoredFile } from '../store.js';
import { codedError, type Medium } from './medium.js';
import { MemoryMedium } from './memory-medium.js';
import { RemoteStore } from './remote-store.js';

const folder = mkdtempSync(join(tmpdir(), 'cellar-unasked-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const newFolder = () => mkdtempSync(join(folder, 'x-'));

const onOwnRack = () => ({ address: null, workRoot: newFolder(), key: randomUUID() });
const filesOn = (medium: Medium, rack: ReturnType<typeof onOwnRack>) =>
  new ArchiveFiles(new RemoteStore(medium, rack), 'one');

/** An archive of this computer's. */
const own = archiveIn(join(newFolder(), 'archive'));
/** A medium on which it lies, too. */
const copied = new MemoryMedium();
let archive = '';
let digest = '';
let backup = '';

beforeAll(async () => {
  const source = join(newFolder(), 'source');
  await writeTree(source, { 'a.txt': 'one', 'b.bin': randomBytes(30_000) });
  const options = { source, secret: withIt, escrow: ESCROW, label: '', threads: 0 };
  const committed = await packFolder({ ...options, files: own });
  archive = committed.archive;
  backup = committed.backup;
  ({ digest } = await recoverArchive(own));
  await copyArchive({ from: own, to: filesOn(copied, onOwnRack()) });
});

/** A medium of which one request, the one of that number, is not answered: its line was cut, and is there again. */
function notAnswering(medium: Medium, number: number) {
  let asked = 0;
  const ask = <T>(work: () => Promise<T>): Promise<T> =>
    asked++ === number ? Promise.reject(codedError('ENOTCONN')) : work();
  const held = (file: StoredFile): StoredFile => ({
    size: file.size,
    read: (into, from) => ask(async () => file.read(into, from)),
    close: () => file.close(),
  });
  const wrapped: Medium = new Proxy(medium, {
    get(target, name: keyof Medium) {
      return (...given: never[]) =>
        ask(async () => {
          const work = target[name] as (...all: never[]) => Promise<unknown>;
          const answer = await work.call(target, ...given);
          return name === 'open' ? held(answer as StoredFile) : answer;
        });
    },
  });
  return { medium: wrapped, reached: () => asked > number };
}

/** What is done with an archive on such a rack, and what comes of it; `there` always answers. */
const work: Record<string, (files: ArchiveFiles, there: ArchiveFiles) => Promise<unknown>> = {
  'a check of every byte': (files) => verifySealed(files, { level: 'bytes', threads: 0 }),
  'a check of a copy': (files) => checkCopy(files, { archive, digest }),
  'a proof': async (files) => {
    const open = await OpenArchive.open(files, quickly, { threads: 0, lease: 'shared' });
    try {
      return await verifyOpen(open, { level: 'full', threads: 0 });
    } finally {
      await open.close();
    }
  },
  'a restore': async (files) => {
    const open = await OpenArchive.open(files, quickly, { threads: 0, lease: 'shared' });
    try {
      const to = newFolder();
      const unpacked = await unpackBackup({ archive: open, backup, to });
      return { ...unpacked, text: readFileSync(join(to, 'a.txt'), 'utf8') };
    } finally {
      await open.close();
    }
  },
  'a copy from it': async (files) => {
    const to = archiveIn(join(newFolder(), 'copy'));
    await copyArchive({ from: files, to });
    return (await recoverArchive(to)).digest;
  },
  'a look whether it is what was recorded': (files) => recoverArchive(files),
  'a repair, which finds nothing': (files) => repairFrom(files, own, { threads: 0 }),
  'its removal': async (files, there) => {
    await removeCopy(files, { archive, digest });
    return (await there.work()).isNew;
  },
  'its destruction': async (files, there) => {
    await destroyCopy(files, archive);
    return (await there.work()).isNew;
  },
  'the destruction of another, which it is not': async (files, there) => {
    const refusal = await destroyCopy(files, randomUUID()).then(
      () => 'destroyed',
      (error: unknown) => {
        if (error instanceof Failure && error.problem.code === 'archive-of-another') return 'no';
        throw error;
      },
    );
    return [refusal, (await recoverArchive(there)).digest];
  },
};

describe('a rack on the network that does not answer once says nothing of what lies there, whenever that is', () => {
  test.each(Object.keys(work))('%s', async (name) => {
    const done = work[name];
    if (!done) throw new Error(name);
    const onRack = (number: number) => {
      const medium = copied.copy();
      const rack = onOwnRack();
      const broken = notAnswering(medium, number);
      const files = filesOn(broken.medium, rack);
      return { files, there: filesOn(medium, rack), reached: broken.reached };
    };
    const sound = onRack(Infinity);
    const expected = await done(sound.files, sound.there);
    const odd: string[] = [];
    let cuts = 0;
    for (; ; cuts++) {
      const { files, there, reached } = onRack(cuts);
      const came = await done(files, there).then(
        (outcome) => ({ outcome }),
        (error: unknown) => ({ error }),
      );
      if (!reached()) break;
      if ('outcome' in came) {
        if (JSON.stringify(came.outcome) !== JSON.stringify(expected))
          odd.push(`${cuts}: ${JSON.stringify(came.outcome)}`);
        continue;
      }
      const { error } = came;
      if (problemOf(error).code !== 'rack-not-here') odd.push(`${cuts}: ${String(error)}`);
    }
    expect(odd).toEqual([]);
    expect(cuts).toBeGreaterThan(5);
  });
});
