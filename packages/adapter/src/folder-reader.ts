import { constants } from 'node:fs';
import { open, readlink, realpath } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { LinkError, SMALL_BYTES, type Entry } from '@bright-cellar/device-link';
import { entryOf, UNREADABLE } from './folder-index.js';

const READ = constants.O_RDONLY | constants.O_NOFOLLOW;

/** A listed entry, and the folder that its path is in. */
export interface Found {
  folder: string;
  entry: Entry;
}

/**
 * A listed entry as it is now.
 * @param revision that it must be of still; null for any
 * @throws LinkError `read-error`, `no-such-entry`, `changed`
 */
export async function entryNow({ folder, entry }: Found, revision: string | null): Promise<Entry> {
  if (entry.revision === UNREADABLE) throw new LinkError('read-error');
  const now = await entryOf(folder, entry.path).catch(() => null);
  if (!now) throw new LinkError('no-such-entry');
  if (revision !== null && revision !== now.revision) throw new LinkError('changed');
  return now;
}

/** All of a small entry, of the revision that is named before and after. @throws LinkError `not-valid` of a long one, else as {@link entryNow} */
export async function wholeOf(found: Found, revision: string): Promise<Buffer> {
  const now = await entryNow(found, revision);
  if (now.bytes > SMALL_BYTES) throw new LinkError('not-valid');
  try {
    const contents = await allOf(found.folder, now);
    await entryNow(found, revision);
    return contents;
  } catch (cause) {
    throw cause instanceof LinkError ? cause : new LinkError('read-error', { cause });
  }
}

async function allOf(folder: string, entry: Entry): Promise<Buffer> {
  if (entry.kind === 'folder') return Buffer.alloc(0);
  const full = await pathOf(folder, entry);
  if (entry.kind === 'link') return Buffer.from(await readlink(full));
  // A stream for each takes longer than to read it.
  const file = await open(full, READ);
  try {
    const contents = Buffer.alloc(entry.bytes);
    const { bytesRead } = await file.read(contents, 0, entry.bytes, 0);
    return contents.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

/** @throws LinkError `changed` where something in between leads out of the folder */
async function pathOf(folder: string, { path }: Entry): Promise<string> {
  const inside = dirname(path);
  if ((await realpath(join(folder, inside))) !== join(await realpath(folder), inside)) {
    throw new LinkError('changed');
  }
  return join(folder, path);
}

/** An entry's bytes. Nothing is followed out of the folder, whatever took the place of a folder or a file in it meanwhile. */
export async function* contentsOf(
  folder: string,
  entry: Entry,
  from: number,
): AsyncGenerator<Uint8Array> {
  if (entry.kind === 'folder') return;
  const full = await pathOf(folder, entry);
  if (entry.kind === 'link') {
    yield* Readable.from([Buffer.from(await readlink(full)).subarray(from)]);
    return;
  }
  if (entry.bytes > from) {
    const file = await open(full, READ);
    const range = { start: from, end: entry.bytes - 1 };
    yield* file.createReadStream({ ...range, highWaterMark: 256 * 1024 });
  }
}

/** @throws LinkError `read-error` where its bytes cannot be read from there on */
export async function mustBeReadable(folder: string, entry: Entry, from: number): Promise<void> {
  if (entry.kind !== 'file' || entry.bytes <= from) return;
  try {
    const file = await open(join(folder, entry.path), READ);
    try {
      await file.read(Buffer.alloc(1), 0, 1, from);
    } finally {
      await file.close();
    }
  } catch (cause) {
    throw new LinkError('read-error', { cause });
  }
}

/**
 * Contents of one state, as a real device gives them out: their last bytes come only when they are still those of that
 * state once all of them were read. Otherwise the connection breaks, and the next try hears that they changed.
 */
export async function* unlessChanged(
  folder: string,
  entry: Entry,
  pieces: AsyncIterable<Uint8Array>,
): AsyncGenerator<Uint8Array> {
  let held: Uint8Array | null = null;
  for await (const piece of pieces) {
    if (held) yield held;
    held = piece;
  }
  const now = await entryOf(folder, entry.path).catch(() => null);
  if (now?.revision !== entry.revision) throw new LinkError('changed');
  if (held) yield held;
}
