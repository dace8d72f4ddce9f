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
 * @param revision that it must be of still, where one is named
 * @throws LinkError `read-error`, `no-such-entry`, `changed`
 */
export async function entryNow({ folder, entry }: Found, revision?: string): Promise<Entry> {
  if (entry.revision === UNREADABLE) throw new LinkError('read-error');
  const now = await entryOf(folder, entry.path).catch(() => null);
  if (!now) throw new LinkError('no-such-entry');
  if (revision !== undefined && revision !== now.revision) throw new LinkError('changed');
  return now;
}

/** All of a small entry, of the revision that is named before and after. @throws LinkError `not-valid` of a long one, else as {@link entryNow} */
export async function wholeOf(found: Found, revision: string): Promise<Buffer> {
  const now = await entryNow(found, revision);
  if (now.bytes > SMALL_BYTES) throw new LinkError('not-valid');
  const pieces: Uint8Array[] = [];
  try {
    for await (const piece of contentsOf(found.folder, now, 0)) pieces.push(piece);
  } catch (cause) {
    throw cause instanceof LinkError ? cause : new LinkError('read-error', { cause });
  }
  await entryNow(found, revision);
  return Buffer.concat(pieces);
}

/** An entry's bytes. Nothing is followed out of the folder, whatever took the place of a folder or a file in it meanwhile. */
export async function* contentsOf(
  folder: string,
  entry: Entry,
  from: number,
): AsyncGenerator<Uint8Array> {
  if (entry.kind === 'folder') return;
  const inside = dirname(entry.path);
  if ((await realpath(join(folder, inside))) !== join(await realpath(folder), inside)) {
    throw new LinkError('changed');
  }
  const full = join(folder, entry.path);
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
