import { execFileSync, spawn } from 'node:child_process';
import { createHash, createHmac, randomUUID } from 'node:crypto';
import { once } from 'node:events';
import {
  mkdirSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type Server } from 'node:net';
import { fileURLToPath } from 'node:url';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { describe, expect, test, vi } from 'vitest';
import { withFolder } from '../test-archives.js';
import { lockArchive } from './folder-lock.js';
import { FolderStore } from './folder-store.js';
import { markRack } from './identity.js';
import type { LeaseKind } from './store.js';

/** What stays beside archives: the secret from which the lock’s name is made. */
const SECRET = ['.bright-cellar-lock'];
const refused = { problem: { code: 'archive-in-use' } };

describe('an archive that is worked on', () => {
  test('is refused to others at once, and free again after', async () => {
    await withFolder(async (folder) => {
      const archive = join(folder, 'archive');
      const lock = await lockArchive(archive);
      // Whoever waited for it would wait for ever.
      await expect(lockArchive(archive)).rejects.toMatchObject(refused);
      const other = await lockArchive(join(folder, 'another'));
      await other.release();
      await lock.release();
      await (await lockArchive(archive)).release();
      expect(readdirSync(folder)).toEqual(SECRET);
    });
  });

  test('is read by any number of one process at once, and changed by nobody until the last has left', async () => {
    await withFolder(async (folder) => {
      const archive = join(folder, 'archive');
      let entries = 0;
      const first = async () => {
        entries += 1;
      };
      const reader = () => lockArchive(archive, 'shared', { first });
      const readers = await Promise.all([reader(), reader(), reader()]);
      // What a crash left is put right by the first, before any of them reads.
      expect(entries).toBe(1);
      for (const lock of readers) {
        await expect(lockArchive(archive)).rejects.toMatchObject(refused);
        await lock.release();
        // As often as one likes.
        await lock.release();
      }
      const change = await lockArchive(archive);
      await expect(reader()).rejects.toMatchObject(refused);
      await change.release();
      // One comes while the last is leaving.
      const last = await reader();
      const [, next] = await Promise.all([last.release(), reader()]);
      await next.release();
      expect(entries).toBe(3);
      expect(readdirSync(folder)).toEqual(SECRET);
    });
  });

  test('is added to beside those who read it, who begin with what was decided carried out', async () => {
    await withFolder(async (folder) => {
      const archive = join(folder, 'archive');
      const entered: string[] = [];
      const enter = (how: string) => async () => void entered.push(how);
      const entering = { first: enter('first'), beside: enter('beside') };
      const lease = (kind: LeaseKind) => lockArchive(archive, kind, entering);
      const reader = await lease('shared');
      const update = await lease('update');
      await (await lease('shared')).release();
      expect(entered).toEqual(['first', 'beside']);
      await expect(lease('update')).rejects.toMatchObject(refused);
      await expect(lease('exclusive')).rejects.toMatchObject(refused);
      // Something has to go: not while somebody reads it.
      expect(() => update.upgrade()).toThrow();
      await reader.release();
      update.upgrade();
      expect(update.kind).toBe('exclusive');
      await expect(lease('shared')).rejects.toMatchObject(refused);
      await update.release();
      await (await lease('exclusive')).release();
      expect(readdirSync(folder)).toEqual(SECRET);
    });
  });

  test('is not read by anybody where what a crash left could not be put right', async () => {
    await withFolder(async (folder) => {
      const archive = join(folder, 'archive');
      const broken = () => Promise.reject(new Error('torn'));
      const both = [1, 2].map(() => lockArchive(archive, 'shared', { first: broken }));
      // At once: whichever comes first, the other fails while nobody would be waiting for it.
      await Promise.all(both.map((one) => expect(one).rejects.toThrow('torn')));
      await (await lockArchive(archive)).release();
    });
  });

  test('is the same archive by whatever way to its folder', async () => {
    await withFolder(async (folder) => {
      mkdirSync(join(folder, 'rack'));
      symlinkSync('rack', join(folder, 'other-way'));
      const lock = await lockArchive(join(folder, 'rack/archive'));
      await expect(lockArchive(join(folder, 'other-way/archive'))).rejects.toMatchObject(refused);
      await lock.release();
    });
  });

  test('leaves nothing in the archive itself: the bag stays a bag', async () => {
    await withFolder(async (folder) => {
      mkdirSync(join(folder, 'archive'));
      const lock = await lockArchive(join(folder, 'archive'));
      expect(readdirSync(join(folder, 'archive'))).toEqual([]);
      await lock.release();
    });
  });
});

test('whoever looks at the file beside an archive finds it whole: a process killed at any moment names itself', async () => {
  await withFolder(async (folder) => {
    // Another thread, which looks as often as it can: the moment in question is short.
    const look = `
      const { readFileSync } = require('node:fs');
      const { parentPort, workerData } = require('node:worker_threads');
      const seen = { whole: 0, cut: 0 };
      const stopped = new Int32Array(workerData.stopped);
      parentPort.postMessage('looking');
      while (Atomics.load(stopped, 0) === 0) {
        try {
          seen[readFileSync(workerData.path, 'utf8').endsWith('}') ? 'whole' : 'cut'] += 1;
        } catch {}
      }
      parentPort.postMessage(seen);
    `;
    const stopped = new SharedArrayBuffer(4);
    const path = join(folder, '.archive.in-use');
    const looking = new Worker(look, { eval: true, workerData: { path, stopped } });
    await once(looking, 'message');
    for (let i = 0; i < 300; i++) await (await lockArchive(join(folder, 'archive'))).release();
    Atomics.store(new Int32Array(stopped), 0, 1);
    const [seen] = (await once(looking, 'message')) as [{ whole: number; cut: number }];
    expect(seen.whole).toBeGreaterThan(20);
    expect(seen.cut).toBe(0);
    expect(readdirSync(folder)).toEqual(SECRET);
  });
});

describe('what a process left behind', () => {
  const mark = (folder: string, host: string, secondsAgo: number) => {
    const path = join(folder, '.archive.in-use');
    writeFileSync(path, JSON.stringify({ host, process: 1, token: 'x' }));
    const then = Date.now() / 1000 - secondsAgo;
    utimesSync(path, then, then);
  };

  test('on this machine does not stand in the way: its process is gone', async () => {
    await withFolder(async (folder) => {
      mark(folder, hostname(), 0);
      await (await lockArchive(join(folder, 'archive'))).release();
    });
  });

  test('on another machine that is still heard of stands in the way', async () => {
    await withFolder(async (folder) => {
      mark(folder, 'the-other-counter', 60);
      await expect(lockArchive(join(folder, 'archive'))).rejects.toMatchObject(refused);
      // And a refusal holds on to nothing.
      await expect(lockArchive(join(folder, 'archive'))).rejects.toMatchObject(refused);
    });
  });

  test('on another machine that has been silent for minutes does not', async () => {
    await withFolder(async (folder) => {
      mark(folder, 'the-other-counter', 600);
      const lock = await lockArchive(join(folder, 'archive'));
      await expect(lockArchive(join(folder, 'archive'))).rejects.toMatchObject(refused);
      await lock.release();
      expect(readdirSync(folder)).toEqual(SECRET);
    });
  });

  test('torn in the middle of a word does not', async () => {
    await withFolder(async (folder) => {
      writeFileSync(join(folder, '.archive.in-use'), '{"ho');
      utimesSync(join(folder, '.archive.in-use'), 1, 1);
      await (await lockArchive(join(folder, 'archive'))).release();
    });
  });
});

test('a drive that left just now leaves nothing of a lock where it was mounted', async () => {
  await withFolder(async (folder) => {
    const isHere = async () => false;
    const gone = lockArchive(join(folder, 'archive'), 'exclusive', { isHere });
    await expect(gone).rejects.toMatchObject({ problem: { code: 'rack-not-here' } });
    expect(readdirSync(folder)).toEqual([]);
  });
});

test('a rack that was here and is not any more is not worked on', async () => {
  await withFolder(async (folder) => {
    const store = new FolderStore(folder);
    await markRack(store, randomUUID());
    const rack = await store.identity();
    expect(rack).not.toBeNull();
    await (await store.lease('one', 'exclusive')).release();
    // Another drive, or none, where the rack was.
    for (const name of readdirSync(folder)) rmSync(join(folder, name), { recursive: true });
    await expect(store.lease('one', 'exclusive')).rejects.toMatchObject({
      problem: { code: 'rack-not-here' },
    });
    expect(readdirSync(folder)).toEqual([]);
  });
});

test('a process that is killed holds nothing', async () => {
  await withFolder(async (folder) => {
    const path = join(folder, 'archive');
    const code = fileURLToPath(new URL('../../dist/store/folder-lock.js', import.meta.url));
    const child = spawn(process.execPath, [
      '--input-type=module',
      '-e',
      `import { lockArchive } from ${JSON.stringify(code)};
       await lockArchive(${JSON.stringify(path)});
       console.log('held');
       setInterval(() => undefined, 1000);`,
    ]);
    await new Promise((held) => child.stdout.once('data', held));
    await expect(lockArchive(path)).rejects.toMatchObject(refused);
    const gone = new Promise((ended) => child.once('exit', ended));
    child.kill('SIGKILL');
    await gone;
    await (await lockArchive(path)).release();
  });
});

describe('whoever cannot read what is beside an archive', () => {
  test('cannot hold it: the name of the lock is no digest of its path', async () => {
    await withFolder(async (folder) => {
      const path = join(realpathSync(folder), 'archive');
      const guesses = [
        createHash('sha256').update(path).digest('hex'),
        createHmac('sha256', Buffer.alloc(0)).update(path).digest('hex'),
      ];
      const held = await Promise.all(
        guesses.map(
          (name) =>
            new Promise<Server>((resolve) => {
              const server = createServer().listen(`\0bright-cellar-${name}`, () =>
                resolve(server),
              );
            }),
        ),
      );
      await (await lockArchive(path)).release();
      for (const server of held) server.close();
    });
  });
});

describe('what somebody put where a lock’s files go', () => {
  test('a link in the place of either is not followed, and what it leads to is as it was', async () => {
    await withFolder(async (folder) => {
      const precious = join(folder, 'precious');
      writeFileSync(precious, 'mine');
      mkdirSync(join(folder, 'stick'));
      symlinkSync(precious, join(folder, 'stick/.archive.in-use'));
      const lock = await lockArchive(join(folder, 'stick/archive'));
      await lock.release();
      symlinkSync(precious, join(folder, 'stick/.bright-cellar-lock.new'));
      rmSync(join(folder, 'stick/.bright-cellar-lock'));
      symlinkSync(precious, join(folder, 'stick/.bright-cellar-lock'));
      await expect(lockArchive(join(folder, 'stick/archive'))).rejects.toThrow();
      expect(readFileSync(precious, 'utf8')).toBe('mine');
    });
  });

  test('a pipe that nobody writes into holds nothing up', async () => {
    await withFolder(async (folder) => {
      for (const name of ['.archive.in-use', '.bright-cellar-lock']) {
        rmSync(join(folder, name), { force: true });
        execFileSync('mkfifo', [join(folder, name)]);
        const locked = await lockArchive(join(folder, 'archive')).catch(() => null);
        await locked?.release();
        rmSync(join(folder, name), { force: true });
      }
    });
  });
});

// Only root may mount.
test.skipIf(process.getuid?.() !== 0)(
  'a medium that turns read-only in the middle leaks no lock; one that takes no byte more can still be read',
  async () => {
    await withFolder(async (folder) => {
      const rack = join(folder, 'rack');
      mkdirSync(rack);
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', rack]);
      try {
        const lock = await lockArchive(join(rack, 'archive'));
        execFileSync('mount', ['-o', 'remount,ro', rack]);
        await lock.release();
        await (await lockArchive(join(rack, 'archive'))).release();
        execFileSync('mount', ['-o', 'remount,rw', rack]);
        expect(() => writeFileSync(join(rack, 'fill'), Buffer.alloc(1_000_000))).toThrow('ENOSPC');
        await (await lockArchive(join(rack, 'archive'))).release();
      } finally {
        execFileSync('umount', [rack]);
      }
    });
  },
);

test('a process says again and again that it is there, so that no other machine takes it for gone', async () => {
  await withFolder(async (folder) => {
    vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval', 'Date'] });
    try {
      const lock = await lockArchive(join(folder, 'archive'));
      const note = join(folder, '.archive.in-use');
      const age = () => Date.now() - statSync(note).mtimeMs;
      for (let beat = 1; beat <= 12; beat++) {
        vi.advanceTimersByTime(20_000);
        // It is touched a moment later, by the system; two at once in any order.
        for (let tries = 0; age() > 10_000 && tries < 2000; tries++)
          await new Promise((later) => setTimeout(later, 10));
        expect(age(), `after ${beat} times 20 seconds`).toBeLessThanOrEqual(10_000);
      }
      await lock.release();
    } finally {
      vi.useRealTimers();
    }
  });
});
