import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { startBox } from '@bright-cellar/rack-stand-ins';
import { afterAll, describe, expect, test, vi } from 'vitest';
import { codeOf, wasNotAsked } from '../../disk/errors.js';
import { rackOn } from '../../test-archives.js';
import { codedError } from '../remote/medium.js';
import { readWhole } from '../read.js';
import { sftpAddressSchema } from './address.js';
import { SftpConnection } from './connection.js';
import { Line } from './line.js';
import { SftpMedium } from './sftp-medium.js';

const box = await startBox();
const workRoot = mkdtempSync(join(tmpdir(), 'cellar-sftp-'));
afterAll(() => {
  box.stop();
  rmSync(workRoot, { recursive: true, force: true });
});
const mediumOn = (folder: string) =>
  new SftpMedium(new SftpConnection(sftpAddressSchema.parse(rackOn(box, folder, workRoot))));

type Make = Parameters<Line['ask']>[0];
/** How a line is asked, for those who stand between. */
const ask = Reflect.get(Line.prototype, 'ask') as (this: Line, make: Make) => Promise<never>;

/** Each is done in a folder of its own in which `a/one` lies. @returns what came of it */
const work: Record<string, (medium: SftpMedium, folder: string) => Promise<unknown>> = {
  'a file that is put over another': (medium, folder) =>
    medium.put(`${folder}/a/one`, 'more', 'over'),
  'a file that is put into folders that are not there': (medium, folder) =>
    medium.put(`${folder}/b/c/two`, 'words', 'over'),
  'a file that is moved there': (medium, folder) =>
    medium.move(`${folder}/a/one`, `${folder}/b/c/one`),
  'what lies there': async (medium, folder) => (await medium.list(`${folder}/`)).length,
  'a file that is read': async (medium, folder) =>
    String(await readWhole(medium, `${folder}/a/one`, 100)),
  'a file that is removed': (medium, folder) => medium.remove(`${folder}/a/one`),
  'all that is removed': (medium, folder) => medium.removeAll(`${folder}/`),
  'when it was written': async (medium, folder) =>
    typeof (await medium.writtenAt(`${folder}/a/one`)),
  room: async (medium) => typeof (await medium.room()).free,
};

describe('a box of which any one answer is lost is said to be not reached, and never to lack what it has', () => {
  test.each(Object.keys(work))('%s', async (name) => {
    const done = work[name];
    if (!done) throw new Error(name);
    const root = name.replaceAll(' ', '-');
    const medium = mediumOn(root);
    const shown = join(box.folder, root);
    let [asked, lost] = [0, Infinity];
    // By turns it was done or not: whoever asked cannot know.
    const asking = vi.spyOn(Line.prototype, 'ask').mockImplementation(async function (
      this: Line,
      make: Make,
    ) {
      const isLost = asked++ === Math.floor(lost / 2);
      if (isLost && lost % 2 === 0) await ask.call(this, make).catch(() => undefined);
      if (isLost) throw codedError('ENOTCONN');
      return ask.call(this, make);
    });
    try {
      const attempt = async (folder: string, lostAt: number) => {
        mkdirSync(join(shown, folder, 'a'), { recursive: true });
        await medium.put(`${folder}/a/one`, 'one', 'over');
        [asked, lost] = [0, lostAt];
        try {
          return { outcome: await done(medium, folder) };
        } catch (error) {
          return { error };
        } finally {
          lost = Infinity;
        }
      };
      const shape = (folder: string) =>
        readdirSync(join(shown, folder), { recursive: true, withFileTypes: true })
          .filter((entry) => entry.isFile())
          .map((entry) => readFileSync(join(entry.parentPath, entry.name), 'utf8') + entry.name);
      const sound = await attempt('sound', Infinity);
      const total = asked * 2;
      for (let lostAt = 0; lostAt < total; lostAt++) {
        const folder = `lost-${lostAt}`;
        const came = await attempt(folder, lostAt);
        if ('outcome' in came) expect(came, folder).toEqual(sound);
        else {
          expect(wasNotAsked(came.error), `${folder}: ${String(came.error)}`).toBe(true);
          // Once more, and it is as if nothing had been lost.
          await done(medium, folder).catch((error: unknown) => {
            if (codeOf(error) !== 'ENOENT') throw error;
          });
        }
        if (name !== 'all that is removed') expect(shape(folder)).toEqual(shape('sound'));
      }
      expect(total).toBeGreaterThan(1);
    } finally {
      asking.mockRestore();
    }
  });
});

test('a box whose line is cut again and again leaves nobody waiting', async () => {
  const medium = mediumOn('cut');
  let [answers, cuts, isOver] = [0, 0, false];
  const asking = async (name: string) => {
    const steps = [
      () => medium.put(`${name}/file`, Buffer.alloc(100_000), 'over'),
      () => medium.list(''),
      () => readWhole(medium, `${name}/file`, 200_000),
    ];
    while (!isOver) {
      for (const step of steps) {
        await step().catch((error: unknown) => {
          if (!wasNotAsked(error) && codeOf(error) !== 'ENOENT') throw error;
        });
        answers += 1;
      }
    }
  };
  const all = ['one', 'two', 'three'].map(asking);
  for (; cuts < 20; cuts++) {
    const before = answers;
    // In the middle of its work, whatever that is.
    await sleep(cuts * 7);
    box.cut();
    await expect.poll(() => answers, { timeout: 20_000, interval: 5 }).toBeGreaterThan(before + 6);
  }
  isOver = true;
  await Promise.all(all);
});

test('a box that says what is no answer is left, and asked anew', async () => {
  const medium = mediumOn('odd');
  await medium.put('file', 'words', 'over');
  const sessions = new Set<object>();
  const asking = vi.spyOn(Line.prototype, 'ask').mockImplementation(function (
    this: Line,
    make: Make,
  ) {
    return ask.call(this, (session, done) => {
      // What its library says of a packet that it cannot read.
      if (sessions.size === 0) session.emit('error', new Error('Invalid packet length'));
      sessions.add(session);
      make(session, done);
    });
  });
  try {
    expect(String(await readWhole(medium, 'file', 100))).toBe('words');
    expect(sessions.size).toBe(2);
  } finally {
    asking.mockRestore();
  }
});
