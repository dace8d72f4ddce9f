import { randomBytes, randomUUID } from 'node:crypto';
import { dirname, join } from 'node:path/posix';
import { codeOf, orNull } from '../../disk/errors.js';
import { codedError, type Medium } from '../remote/medium.js';
import type { Contents, PutMode, Room, Stored, StoredFile } from '../store.js';
import type { Handle, SftpConnection } from './connection.js';
import type { Session } from './line.js';

/** What one request carries; every server takes that much. */
const PIECE = 32 * 2 ** 10;
/** Requests under way at once: what a line with some delay needs. */
const AT_ONCE = 64;
const DRAFT = '.put-';
/** What was being written so long ago is not being written any more. */
const STALE_MS = 24 * 3_600_000;
/** A full disk has no code of its own. */
const FULL_BYTES = 2 ** 20;

type Attributes = Parameters<Parameters<Session['lstat']>[1]>[1];
type Entry = Parameters<Parameters<Session['readdir']>[1]>[1][number];

/** What a session is asked. @param path where a name of the rack is on the box */
type Asked<T> = (
  session: Session,
  path: (name: string) => string,
  done: (error: Error | null | undefined, value?: T) => void,
) => void;

/**
 * A folder of a box on the network, over SFTP. A file is written under a name of its own, synced, and renamed: over another
 * with OpenSSH's `posix-rename`, onto a free name with its `hardlink`; both and `fsync` and `statvfs` are extensions of it.
 */
export class SftpMedium implements Medium {
  readonly #connection: SftpConnection;

  constructor(connection: SftpConnection) {
    this.#connection = connection;
  }

  async room(): Promise<Room> {
    const info = await onceMore(() =>
      this.#call<Record<'f_frsize' | 'f_blocks' | 'f_bavail', number | bigint>>(
        (session, path, done) => session.ext_openssh_statvfs(path(''), done),
      ),
    );
    const { f_frsize: block, f_blocks: blocks, f_bavail: free } = info;
    return { capacity: Number(blocks) * Number(block), free: Number(free) * Number(block) };
  }

  async list(prefix: string): Promise<Stored[]> {
    const found: Stored[] = [];
    await this.#walk(prefix.replace(/\/$/, ''), (name, { attrs }) => {
      found.push({ name, bytes: attrs.isFile() ? attrs.size : null });
    });
    return found.sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  async folders(): Promise<string[]> {
    const entries = (await this.#entries('')) ?? [];
    return entries.filter(({ attrs }) => attrs.isDirectory()).map(({ filename }) => filename);
  }

  /** Every entry below a folder that is no folder; none where it is not there. @returns the folders, the deepest last */
  async #walk(folder: string, each: (name: string, entry: Entry) => void): Promise<string[]> {
    const entries = await this.#entries(folder);
    if (!entries) return [];
    const below = entries
      .filter(({ attrs }) => attrs.isDirectory())
      .map(({ filename }) => filename);
    for (const entry of entries) {
      if (!entry.attrs.isDirectory()) each(join(folder, entry.filename), entry);
    }
    const deeper = await Promise.all(below.map((name) => this.#walk(join(folder, name), each)));
    return [folder, ...deeper.flat()];
  }

  /** Null where it is not there. */
  async #entries(folder: string): Promise<Entry[] | null> {
    try {
      const all = await onceMore(() =>
        this.#call<Entry[]>((session, path, done) => session.readdir(path(folder), done)),
      );
      // A name is what the box says it is, and never a way to somewhere else.
      return all.filter(({ filename }) => !/^\.{1,2}$|[/\0]/.test(filename));
    } catch (error) {
      if (codeOf(error) === 'ENOENT') return null;
      throw error;
    }
  }

  async open(name: string): Promise<StoredFile> {
    const attributes = await this.#attributes(name);
    if (!attributes.isFile()) throw codedError('EINVAL');
    const opened = () =>
      onceMore(() => this.#opened((session, path, done) => session.open(path(name), 'r', done)));
    const again = async () => {
      const { size, mtime } = await this.#attributes(name);
      // Another lies there now: of the one that was open nobody can be asked any more.
      if (size !== attributes.size || mtime !== attributes.mtime) throw codedError('ENOTCONN');
      return opened();
    };
    return new SftpFile(this.#connection, { handle: await opened(), again }, attributes.size);
  }

  #attributes(name: string): Promise<Attributes> {
    return onceMore(() =>
      this.#call<Attributes>((session, path, done) => session.lstat(path(name), done)),
    );
  }

  async put(name: string, contents: Contents, how: PutMode): Promise<void> {
    const draft = `${DRAFT}${randomUUID()}`;
    try {
      await this.#write(draft, contents);
      await this.#inFolder(name, () => this.#rename(draft, name, how));
    } finally {
      await this.remove(draft).catch(() => undefined);
    }
  }

  async #rename(from: string, to: string, how: PutMode): Promise<void> {
    if (how === 'over') {
      await this.#call((session, path, done) =>
        session.ext_openssh_rename(path(from), path(to), done),
      );
      return;
    }
    try {
      await this.#call((session, path, done) =>
        session.ext_openssh_hardlink(path(from), path(to), done),
      );
    } catch (error) {
      if (codeOf(error) === 'ENOENT' || codeOf(error) === 'ENOTCONN') throw error;
      const isThere = await this.#attributes(to).then(
        () => true,
        () => false,
      );
      throw isThere ? codedError('EEXIST', error) : error;
    }
  }

  /** Does what needs the folder of a name, which is made where it is not there, and makes its names durable. */
  async #inFolder(name: string, work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      if (codeOf(error) !== 'ENOENT' || !name.includes('/')) throw error;
      await this.#makeFolder(dirname(name));
      await work();
    }
    await this.#syncFolder(dirname(name));
  }

  async #makeFolder(folder: string): Promise<void> {
    const above = dirname(folder);
    if (above !== '.') await this.#makeFolder(above);
    try {
      await onceMore(() =>
        this.#call((session, path, done) => session.mkdir(path(folder), { mode: 0o700 }, done)),
      );
    } catch (error) {
      if (codeOf(error) === 'ENOTCONN') throw error;
      // There already, or no folder can be made there.
      const there = await orNull(this.#attributes(folder));
      if (there?.isDirectory()) return this.#syncFolder(above);
      // That it is not there would say that what was to come into it is not.
      throw codeOf(error) === 'ENOENT' ? codedError('EIO', error) : error;
    }
    await this.#syncFolder(above);
  }

  /** A server that opens no folder says so, and what it is then is up to it. */
  async #syncFolder(folder: string): Promise<void> {
    const name = folder === '.' ? '' : folder;
    const handle = await orNull(
      this.#opened((session, path, done) => session.open(path(name), 'r', done)),
    );
    if (!handle) return;
    try {
      await orNull(
        this.#connection.on(handle, (session, raw, done) => session.ext_openssh_fsync(raw, done)),
      );
    } finally {
      await this.#connection.close(handle);
    }
  }

  async #write(name: string, contents: Contents): Promise<void> {
    const handle = await this.#opened((session, path, done) =>
      session.open(path(name), 'wx', { mode: 0o600 }, done),
    );
    try {
      const under = new UnderWay();
      let at = 0;
      for await (const piece of piecesIn(contents)) {
        for (let from = 0; from < piece.length; from += PIECE) {
          const some = piece.subarray(from, from + PIECE);
          const offset = at;
          at += some.length;
          await under.begin(() =>
            this.#connection.on(handle, (session, raw, done) =>
              session.write(raw, some, 0, some.length, offset, done),
            ),
          );
        }
        // Whoever made the piece may use its room for the next.
        await under.all();
      }
      await this.#connection.on(handle, (session, raw, done) =>
        session.ext_openssh_fsync(raw, done),
      );
    } catch (error) {
      if (codeOf(error) !== 'EIO') throw error;
      const { free } = await this.room();
      throw free < FULL_BYTES ? codedError('ENOSPC', error) : error;
    } finally {
      await this.#connection.close(handle);
    }
  }

  async move(from: string, to: string): Promise<void> {
    await this.#attributes(from);
    await this.#inFolder(to, () => this.#rename(from, to, 'over'));
  }

  async remove(name: string): Promise<void> {
    await unlessGone(this.#call((session, path, done) => session.unlink(path(name), done)));
  }

  async removeAll(prefix: string): Promise<void> {
    const files: string[] = [];
    const folders = await this.#walk(prefix.replace(/\/$/, ''), (name) => files.push(name));
    const under = new UnderWay();
    for (const name of files) await under.begin(() => this.remove(name));
    await under.all();
    for (const folder of folders.sort().reverse()) {
      await unlessGone(this.#call((session, path, done) => session.rmdir(path(folder), done)));
    }
  }

  async overwrite(name: string): Promise<void> {
    const size = await this.#attributes(name).then(
      (attributes) => (attributes.isFile() ? attributes.size : 0),
      () => 0,
    );
    if (size === 0) return;
    const handle = await this.#opened((session, path, done) =>
      session.open(path(name), 'r+', done),
    );
    try {
      const noise = randomBytes(size);
      await this.#connection.on(handle, (session, raw, done) =>
        session.write(raw, noise, 0, size, 0, done),
      );
      await this.#connection.on(handle, (session, raw, done) =>
        session.ext_openssh_fsync(raw, done),
      );
    } finally {
      await this.#connection.close(handle);
    }
  }

  async writtenAt(name: string): Promise<number | null> {
    const attributes = await orNull(this.#attributes(name));
    return attributes === null ? null : attributes.mtime * 1000;
  }

  async tidy(): Promise<void> {
    for (const { filename, attrs } of (await this.#entries('')) ?? []) {
      if (!filename.startsWith(DRAFT) || Date.now() - attrs.mtime * 1000 < STALE_MS) continue;
      await this.remove(filename);
    }
  }

  #opened(make: Asked<Buffer>): Promise<Handle> {
    return this.#connection.open((session, done) => make(session, this.#path, done));
  }

  #call<T = unknown>(make: Asked<T>): Promise<T> {
    return this.#connection.call<T>((session, done) => make(session, this.#path, done));
  }

  readonly #path = (name: string): string => join(this.#connection.root, name);
}

/** Blocks that are asked for ahead of who reads a file from front to back. */
const AHEAD = 8;
const BLOCK = 256 * 2 ** 10;

/** A file that is open; where its session ended, it is opened once more in another, as the same file. */
class SftpFile implements StoredFile {
  readonly size: number;
  readonly #connection: SftpConnection;
  readonly #again: () => Promise<Handle>;
  #handle: Promise<Handle>;
  /** By the block's place: what is here, or is on its way. */
  readonly #blocks = new Map<number, Promise<Buffer>>();
  #next = 0;

  constructor(
    connection: SftpConnection,
    { handle, again }: { handle: Handle; again: () => Promise<Handle> },
    size: number,
  ) {
    this.#connection = connection;
    this.#handle = Promise.resolve(handle);
    this.#again = again;
    this.size = size;
  }

  async read(into: Uint8Array, from: number): Promise<number> {
    const length = Math.min(into.length, this.size - from);
    if (length <= 0) return 0;
    if (from !== this.#next) {
      this.#blocks.clear();
      this.#next = from + length;
      return this.#readWhole(Buffer.from(into.buffer, into.byteOffset, length), from);
    }
    const first = Math.floor(from / BLOCK);
    for (const place of [...this.#blocks.keys()]) if (place < first) this.#blocks.delete(place);
    const last = Math.min(first + AHEAD, Math.ceil(this.size / BLOCK));
    for (let place = first; place < last; place++) {
      if (!this.#blocks.has(place)) this.#blocks.set(place, this.#block(place));
    }
    const block = await this.#blocks.get(first);
    const some = block?.subarray(from - first * BLOCK).subarray(0, length) ?? Buffer.alloc(0);
    into.set(some);
    this.#next = from + some.length;
    return some.length;
  }

  #block(place: number): Promise<Buffer> {
    const from = place * BLOCK;
    const into = Buffer.allocUnsafe(Math.min(BLOCK, this.size - from));
    const block = this.#readWhole(into, from).then((count) => into.subarray(0, count));
    // Whoever reads that far hears of it.
    block.catch(() => undefined);
    return block;
  }

  async #readWhole(into: Buffer, from: number): Promise<number> {
    const { length } = into;
    const counts = await Promise.all(
      Array.from({ length: Math.ceil(length / PIECE) }, (_, n) =>
        this.#readPiece(into, n * PIECE, Math.min(PIECE, length - n * PIECE), from),
      ),
    );
    // A file that became shorter ends with the first piece that is not full.
    const short = counts.findIndex((count, n) => count < Math.min(PIECE, length - n * PIECE));
    return short < 0 ? length : short * PIECE + (counts[short] ?? 0);
  }

  async #readPiece(into: Buffer, at: number, length: number, from: number): Promise<number> {
    const read = async (of: Promise<Handle>): Promise<number> =>
      this.#connection.on<number>(await of, (session, raw, done) =>
        session.read(raw, into, at, length, from + at, done),
      );
    const handle = this.#handle;
    try {
      return await read(handle).catch(async (error: unknown) => {
        if (codeOf(error) !== 'ENOTCONN') throw error;
        return read(this.#openAgain(handle));
      });
    } catch (error) {
      if (isEnd(error)) return 0;
      throw error;
    }
  }

  /** Once for all that are under way. */
  #openAgain(lost: Promise<Handle>): Promise<Handle> {
    if (this.#handle === lost) {
      this.#handle = this.#again();
      this.#handle.catch(() => undefined);
    }
    return this.#handle;
  }

  close(): void {
    void this.#handle.then(
      (handle) => this.#connection.close(handle),
      () => undefined,
    );
  }
}

/** The server's word for the end of a file. */
const END = 1;
const isEnd = (error: unknown) =>
  error instanceof Error && error.cause !== undefined && codeOf(error.cause) === END;

/** Asks once more where the session ended meanwhile: a question changes nothing, and the next session may answer it. */
async function onceMore<T>(ask: () => Promise<T>): Promise<T> {
  try {
    return await ask();
  } catch (error) {
    if (codeOf(error) !== 'ENOTCONN') throw error;
    return ask();
  }
}

async function* piecesIn(contents: Contents): AsyncGenerator<Buffer> {
  if (typeof contents === 'string' || contents instanceof Uint8Array) yield Buffer.from(contents);
  else
    for await (const piece of contents)
      yield Buffer.from(piece.buffer, piece.byteOffset, piece.length);
}

async function unlessGone(work: Promise<unknown>): Promise<void> {
  await work.catch((error: unknown) => {
    if (codeOf(error) !== 'ENOENT') throw error;
  });
}

/** Requests that are under way, never more than some at once; the first error is everybody's. */
class UnderWay {
  readonly #running = new Set<Promise<unknown>>();
  #failed: Error | null = null;

  async begin(work: () => Promise<unknown>): Promise<void> {
    if (this.#running.size >= AT_ONCE) await Promise.race(this.#running);
    this.#pass();
    const running = work()
      .catch((error: unknown) => {
        this.#failed ??= error instanceof Error ? error : new Error(String(error));
      })
      .finally(() => this.#running.delete(running));
    this.#running.add(running);
  }

  async all(): Promise<void> {
    await Promise.all(this.#running);
    this.#pass();
  }

  #pass(): void {
    if (this.#failed) throw this.#failed;
  }
}
