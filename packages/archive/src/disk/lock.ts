import { createHash, randomUUID } from 'node:crypto';
import { link, readFile, realpath, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:net';
import { hostname } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';

/**
 * One process at a time works on an archive. On this machine a socket in Linux's abstract namespace says
 * so: it is gone the moment its process is, however that ends. For other machines on the same share there
 * is a file that is touched as long as the work goes on.
 */
const BEAT_MS = 20_000;
/** A holder on another machine that has not been heard of for this long is gone. */
const SILENT_MS = 6 * BEAT_MS;
const suffix = '.in-use';

export interface ArchiveLock {
  release(): Promise<void>;
}

function inUse(cause?: unknown): Failure {
  return new Failure('archive-in-use', {}, { cause });
}

/**
 * @param folder of the archive; it need not exist yet, its parent must.
 * @throws Failure `archive-in-use` at once, without waiting.
 */
export async function lockArchive(folder: string): Promise<ArchiveLock> {
  const parent = await realpath(dirname(folder));
  const path = join(parent, basename(folder));
  const socket = await claimSocket(path);
  let file: { path: string; beat: NodeJS.Timeout } | null = null;
  try {
    file = await claimFile(join(parent, `.${basename(folder)}${suffix}`));
  } catch (error) {
    socket.close();
    throw error;
  }
  return {
    async release() {
      if (file) {
        clearInterval(file.beat);
        await rm(file.path, { force: true });
      }
      await new Promise<void>((done) => socket.close(() => done()));
    },
  };
}

function claimSocket(path: string): Promise<Server> {
  const name = createHash('sha256').update(path).digest('hex');
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
async function claimFile(path: string): Promise<{ path: string; beat: NodeJS.Timeout } | null> {
  const own = JSON.stringify({ host: hostname(), process: process.pid, token: randomUUID() });
  for (let tries = 0; ; tries++) {
    try {
      await putFile(path, own);
      break;
    } catch (error) {
      const code = codeOf(error);
      if (code === 'EROFS' || code === 'EACCES' || code === 'EPERM') return null;
      if (code !== 'EEXIST') throw error;
      if (tries > 0 || !(await isAbandoned(path))) throw inUse(error);
      // Whoever renames it first may have it: two that saw it abandoned cannot both go on.
      const aside = `${path}.${randomUUID()}`;
      await rename(path, aside).catch(() => undefined);
      await rm(aside, { force: true });
    }
  }
  const beat = setInterval(() => {
    const now = new Date();
    utimes(path, now, now).catch(() => undefined);
  }, BEAT_MS);
  beat.unref();
  return { path, beat };
}

/** Where a file system knows no hard links, this is what it says. */
const noLinks: readonly unknown[] = ['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'];

/**
 * Makes a file that is there with its contents or not at all: a process that is killed between making it and writing
 * into it would leave one that names nobody, and that nobody may take for abandoned. @throws `EEXIST` when it is there
 */
async function putFile(path: string, contents: string): Promise<void> {
  // One name for each machine: the socket sees to it that only one process here is at this.
  const machine = createHash('sha256').update(hostname()).digest('hex').slice(0, 8);
  const whole = `${path}-${machine}`;
  await writeFile(whole, contents, { mode: 0o600 });
  try {
    await link(whole, path);
  } catch (error) {
    if (!noLinks.includes(codeOf(error))) throw error;
    await writeFile(path, contents, { flag: 'wx', mode: 0o600 });
  } finally {
    await rm(whole, { force: true });
  }
}

const codeOf = (error: unknown): unknown =>
  error instanceof Error && 'code' in error ? error.code : '';

async function isAbandoned(path: string): Promise<boolean> {
  try {
    const [text, info] = await Promise.all([readFile(path, 'utf8'), stat(path)]);
    // This machine's socket was free: its file was left behind.
    if (text.includes(`"host":${JSON.stringify(hostname())}`)) return true;
    return Date.now() - info.mtimeMs > SILENT_MS;
  } catch {
    return true;
  }
}
