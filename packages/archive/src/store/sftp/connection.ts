import { createHash } from 'node:crypto';
import { connect } from 'node:net';
import { setTimeout as sleep } from 'node:timers/promises';
import { Failure } from '@bright-cellar/core';
import type Client from 'ssh2-sftp-client';
import { codeOf } from '../../disk/errors.js';
import { codedError } from '../remote/medium.js';
import type { SftpAddress } from './address.js';
import { Line, type Done, type Session } from './line.js';

/** A file that is open in a session. */
export interface Handle {
  line: Line;
  raw: Buffer;
}

const READY_MS = 10_000;
const ALIVE_EVERY_MS = 5_000;
const IDLE_MS = 5_000;

/** The session with a box, made when it is needed and closed when nobody needs it for some seconds. */
export class SftpConnection {
  readonly #address: SftpAddress;
  #open: Promise<{ line: Line; client: Client }> | null = null;
  #users = 0;
  #usedAt = 0;
  /** How many were made: the newest is the one that is used. */
  #sessions = 0;
  #root = '';

  constructor(address: SftpAddress) {
    this.#address = address;
  }

  /** Absolute path of the rack's folder there. */
  get root(): string {
    return this.#root;
  }

  /** Opens a file. What it is called then is known to that session only, which stays until it is closed. */
  open(make: (session: Session, done: Done<Buffer>) => void): Promise<Handle> {
    return this.#use(async () => {
      const line = await this.#line();
      const handle = { line, raw: await line.ask(make) };
      line.handles += 1;
      return handle;
    });
  }

  /** Closes it, or leaves that to the end of its session. */
  async close(handle: Handle): Promise<void> {
    handle.line.handles -= 1;
    await this.on(handle, (session, raw, done) => session.close(raw, done)).catch(() => undefined);
  }

  /**
   * Asks about a file that is open. @throws `ENOTCONN` where the session in which it was opened is over: to another one its handle
   * says nothing, or says another file
   */
  on<T = unknown>(
    { line, raw }: Handle,
    make: (session: Session, handle: Buffer, done: Done<T>) => void,
  ): Promise<T> {
    return this.#use(() => line.ask<T>((session, done) => make(session, raw, done)));
  }

  /**
   * One call of the session.
   * @throws Failure `rack-not-here` that says why, where the box is another one or lets nobody in; errors with POSIX codes,
   * `ENOTCONN` where it is not reached
   */
  call<T = unknown>(make: (session: Session, done: Done<T>) => void): Promise<T> {
    return this.#use(async () => (await this.#line()).ask<T>(make));
  }

  /** Does something with the session, which is one for all and stays meanwhile. */
  async #use<T>(work: () => Promise<T>): Promise<T> {
    this.#users += 1;
    try {
      return await work();
    } catch (error) {
      throw posixOf(error);
    } finally {
      this.#users -= 1;
      this.#usedAt = performance.now();
      if (this.#users === 0) void this.#closeWhenIdle();
    }
  }

  async #line(): Promise<Line> {
    this.#open ??= this.#connect();
    return (await this.#open).line;
  }

  async #connect() {
    const { host, port, user, hostKey, login, path } = this.#address;
    let seen = '';
    const client = await newClient();
    const number = ++this.#sessions;
    let line: Line | null = null;
    const forget = () => {
      // One that was closed before may say so only now.
      if (number === this.#sessions) this.#open = null;
      line?.end();
    };
    client.on('close', forget);
    try {
      const session = await client.connect({
        ...{ username: user, readyTimeout: READY_MS },
        // Questions are short, and each waits for its answer.
        sock: connect({ host, port, noDelay: true }),
        ...(login.kind === 'password'
          ? { password: login.password }
          : { privateKey: login.privateKey }),
        keepaliveInterval: ALIVE_EVERY_MS,
        hostVerifier: (key: Buffer) => {
          seen = fingerprintOf(key);
          return hostKey === null || seen === hostKey;
        },
      });
      line = new Line(session);
      // A box may end it, or say what is no answer, and keep the connection.
      const over = () => {
        forget();
        void client.end().catch(() => undefined);
      };
      session.on('close', over).on('error', over);
      this.#root = await line.ask<string>((there, done) => there.realpath(path, done));
      return { line, client };
    } catch (error) {
      forget();
      await client.end().catch(() => undefined);
      if (hostKey !== null && seen !== '' && seen !== hostKey) {
        throw new Failure('rack-not-here', anotherKey, { cause: error });
      }
      throw error instanceof Error && /authentication/i.test(error.message)
        ? new Failure('rack-not-here', refused, { cause: error })
        : error;
    }
  }

  async #closeWhenIdle(): Promise<void> {
    const open = this.#open;
    await sleep(IDLE_MS, undefined, { ref: false });
    const opened = await open?.catch(() => null);
    const isInUse = this.#users > 0 || (opened && opened.line.handles > 0);
    // Whoever used it since looks later.
    const isRecent = performance.now() - this.#usedAt < IDLE_MS - 1;
    if (isInUse || isRecent || this.#open !== open) return;
    this.#open = null;
    await opened?.client.end().catch(() => undefined);
  }
}

/** What it says after it is open, it says to whoever waits for an answer. Most processes never load it. */
async function newClient(): Promise<Client> {
  const { default: SftpClient } = await import('ssh2-sftp-client');
  return new SftpClient('rack', { error: () => undefined, end: () => undefined });
}

const anotherKey = {
  what: 'The box answers with another host key than the one that was trusted.',
  safe: 'Nobody signed in to it, and nothing was sent.',
  next: 'Ask whoever runs the box whether it was set up anew. If nobody knows of that, unplug it.',
};
const refused = {
  what: 'The box refuses the name or what one signs in with.',
  next: 'Ask whoever runs the box, then add the rack again with what is right.',
};

const fingerprintOf = (key: Buffer) =>
  createHash('sha256').update(key).digest('base64').replace(/=+$/, '');

/**
 * The host key that a box shows, for a person to compare before it is trusted: nobody signs in.
 * @returns SHA-256, base64 without `=`, as OpenSSH prints it
 * @throws `ENOTCONN`
 */
export async function hostKeyOf({ host, port }: { host: string; port: number }): Promise<string> {
  let seen = '';
  const client = await newClient();
  try {
    await client.connect({
      ...{ host, port, username: 'nobody', readyTimeout: READY_MS },
      hostVerifier: (key: Buffer) => {
        seen = fingerprintOf(key);
        return false;
      },
    });
  } catch (error) {
    if (seen === '') throw codedError('ENOTCONN', error);
  } finally {
    await client.end().catch(() => undefined);
  }
  return seen;
}

/** What an SFTP server's numbers mean. */
const meanings: Record<number, string> = { 2: 'ENOENT', 3: 'EACCES', 4: 'EIO', 6: 'ENOTCONN' };
const STATUS_MOST = 31;

function posixOf(error: unknown): unknown {
  if (error instanceof Failure) return error;
  const code = codeOf(error);
  if (typeof code === 'number' && code <= STATUS_MOST) {
    return codedError(meanings[code] ?? 'EIO', error);
  }
  if (typeof code === 'string' && /^E[A-Z]+$/.test(code) && !lost.has(code)) return error;
  // Whatever a session says that is no answer: it is not there any more.
  return error instanceof Error ? codedError('ENOTCONN', error) : error;
}

const lost: ReadonlySet<string> = new Set([
  ...['ECONNREFUSED', 'ECONNRESET', 'ENOTFOUND', 'EAI_AGAIN', 'EPIPE', 'ETIMEDOUT', 'EHOSTUNREACH'],
  ...['ENETUNREACH', 'ERR'],
]);
