import { spawn } from 'node:child_process';
import { mkdirSync, readdirSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { withFolder } from '../test-archives.js';
import { lockArchive } from './lock.js';

const refused = { problem: { code: 'archive-in-use' } };

describe('an archive that is worked on', () => {
  test('is refused to others at once, and free again after', async () => {
    await withFolder(async (folder) => {
      const archive = join(folder, 'archive');
      const lock = await lockArchive(archive);
      const began = Date.now();
      await expect(lockArchive(archive)).rejects.toMatchObject(refused);
      expect(Date.now() - began).toBeLessThan(2000);
      const other = await lockArchive(join(folder, 'another'));
      await other.release();
      await lock.release();
      await (await lockArchive(archive)).release();
      expect(readdirSync(folder)).toEqual([]);
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

describe('what a holder left behind', () => {
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
      expect(readdirSync(folder)).toEqual([]);
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

test('a process that is killed holds nothing', async () => {
  await withFolder(async (folder) => {
    const { createHash } = await import('node:crypto');
    const { realpathSync } = await import('node:fs');
    const path = join(realpathSync(folder), 'archive');
    const name = `bright-cellar-${createHash('sha256').update(path).digest('hex')}`;
    const holder = spawn(process.execPath, [
      '-e',
      `require('net').createServer().listen('\\0${name}', () => console.log('held'))`,
    ]);
    await new Promise((held) => holder.stdout.once('data', held));
    await expect(lockArchive(path)).rejects.toMatchObject(refused);
    const gone = new Promise((ended) => holder.once('exit', ended));
    holder.kill('SIGKILL');
    await gone;
    await (await lockArchive(path)).release();
  });
});
