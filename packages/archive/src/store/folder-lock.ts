import { createHmac, randomBytes, randomUUID } from 'node:crypto';
import { link, lstat, lutimes, realpath, rename, rm, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:net';
import { hostname } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { diskFailure } from '../disk/durable.js';
import { cannotWrite, codeOf, noLinks } from '../disk/errors.js';
import { readPlain } from '../disk/hostile.js';
import { inUse, Leases, type Hold } from './leases.js';
import type { Lease, LeaseKind } from './store.js';

/**
 * One process at a time works on an archive. On this machine a socket in Linux's abstract namespace says
 * so: it is gone the moment its process is, however that ends. Its name is made from a secret that lies beside the
 * archives, so that nobody who cannot read them can take it. For other machines on the same share there
 * is a file that is touched as long as the work goes on.
 */
/** Lies beside the archives of a folder. */
export const LOCK_SECRET = '.bright-cellar-lock';
const SECRET_BYTES = 32;
const BEAT_MS = 20_000;
/** A process on another machine that has not been heard of for this long is gone. */
const SILENT_MS = 6 * BEAT_MS;
const suffix = '.in-use';
const NOTE_BYTES = 4096;

const leases = new Leases();

/** What is done by whoever gets a lease, before anybody works with it. */
export interface Entering {
  /** What the first of a process must do, while nobody else has any. */
  first?: () => Promise<unknown>;
  /** What who changes the archive must do, beside others of this process who read it. */
  beside?: () => Promise<unknown>;
  /** Whether the drive that should be there still is: what was made where it was not is taken away again. */
  isHere?: () => Promise<boolean>;
}

/**
 * @param folder of the archive; it need not exist yet, its parent must.
 * @throws Failure `archive-in-use` at once, without waiting; what `entering` throws
 */
export async function lockArchive(
  folder: string,
  kind: LeaseKind = 'exclusive',
  { first, beside, isHere = async () => true }: Entering = {},
): Promise<Lease> {
  const parent = await realpath(dirname(folder));
  const path = join(parent, basename(folder));
  const take = async () => {
    const lock = await lockAlone(path, isHere);
    try {
      await first?.();
      return lock;
    } catch (error) {
      await lock.release();
      throw error;
    }
  };
  return leases.lease(path, kind, take, async () => {
    if (kind !== 'shared') await beside?.();
  });
}

async function lockAlone(path: string, isHere: () => Promise<boolean>): Promise<Hold> {
  const parent = dirname(path);
  const socket = await claimSocket(await secretOf(parent, isHere), path);
  let file: { path: string; beat: NodeJS.Timeout } | null = null;
  try {
    file = await claimFile(join(parent, `.${basename(path)}${suffix}`), isHere);
  } catch (error) {
    socket.close();
    throw error;
  }
  return {
    async release() {
      try {
        if (file) {
          clearInterval(file.beat);
          await rm(file.path, { force: true });
        }
      } catch {
        // The rack cannot be written any more. The file names this process, and is abandoned when it is gone.
      } finally {
        await new Promise<void>((done) => socket.close(() => done()));
      }
    },
  };
}

/** Made by whoever is first; empty where nothing can be written: there nobody changes anything. */
async function secretOf(folder: string, isHere: () => Promise<boolean>): Promise<Buffer> {
  const path = join(folder, LOCK_SECRET);
  for (;;) {
    try {
      const secret = readPlain(path, SECRET_BYTES);
      if (secret.length === SECRET_BYTES) return secret;
      throw new Failure('archive-damaged', { what: `“${LOCK_SECRET}” is not what it should be.` });
    } catch (error) {
      if (codeOf(error) !== 'ENOENT') throw diskFailure(error);
    }
    try {
      await putWhole(path, randomBytes(SECRET_BYTES), isHere);
    } catch (error) {
      if (cannotWrite.includes(codeOf(error))) return Buffer.alloc(0);
      if (codeOf(error) !== 'EEXIST') throw error;
    }
  }
}

function claimSocket(secret: Buffer, path: string): Promise<Server> {
  const name = createHmac('sha256', secret).update(path).digest('hex');
  const server = createServer((connection) => connection.destroy());
  return new Promise((resolve, reject) => {
    server.once('error', (error) => reject(inUse(error)));
    server.listen(`\0bright-cellar-${name}`, () => {
      server.unref();
      resolve(server);
    });
  });
}

/** Null where nothing can be written: a medium that nobody can change needs no such file. */
async function claimFile(
  path: string,
  isHere: () => Promise<boolean>,
): Promise<{ path: string; beat: NodeJS.Timeout } | null> {
  const own = JSON.stringify({ host: hostname(), process: process.pid, token: randomUUID() });
  for (let tries = 0; ; tries++) {
    try {
      await putWhole(path, own, isHere);
      break;
    } catch (error) {
      if (cannotWrite.includes(codeOf(error))) return null;
      if (codeOf(error) !== 'EEXIST') throw error;
      if (tries > 0 || !(await isAbandoned(path))) throw inUse(error);
      // Whoever renames it first may have it: two that saw it abandoned cannot both go on.
      const aside = `${path}.${randomUUID()}`;
      await rename(path, aside).catch(() => undefined);
      await rm(aside, { force: true });
    }
  }
  const beat = setInterval(() => {
    const now = new Date();
    lutimes(path, now, now).catch(() => undefined);
  }, BEAT_MS);
  beat.unref();
  return { path, beat };
}

/**
 * Makes a file that is there with its contents or not at all: a process that is killed between making it and writing
 * into it would leave one that names nobody, and that nobody may take for abandoned. @throws `EEXIST` when it is there
 */
async function putWhole(
  path: string,
  contents: string | Uint8Array,
  isHere: () => Promise<boolean>,
): Promise<void> {
  // A name that nobody can have put something under before.
  const whole = `${path}-${randomUUID()}`;
  try {
    await writeFile(whole, contents, { mode: 0o600, flag: 'wx' });
    await link(whole, path).catch(async (error: unknown) => {
      if (!noLinks.includes(codeOf(error))) throw error;
      await writeFile(path, contents, { flag: 'wx', mode: 0o600 });
    });
  } finally {
    await rm(whole, { force: true });
  }
  if (await isHere()) return;
  await rm(path, { force: true });
  throw new Failure('rack-not-here');
}

async function isAbandoned(path: string): Promise<boolean> {
  try {
    const info = await lstat(path);
    const text = readPlain(path, NOTE_BYTES).toString('utf8');
    // This machine's socket was free: its file was left behind.
    if (text.includes(`"host":${JSON.stringify(hostname())}`)) return true;
    return Date.now() - info.mtimeMs > SILENT_MS;
  } catch {
    return true;
  }
}
