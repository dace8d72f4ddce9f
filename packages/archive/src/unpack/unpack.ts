import {
  chmodSync,
  closeSync,
  lutimesSync,
  mkdirSync,
  openSync,
  symlinkSync,
  truncateSync,
} from 'node:fs';
import { mkdir, readdir, rm } from 'node:fs/promises';
import { Failure, SEGMENT_BYTES } from '@bright-cellar/core';
import { isFinding } from '../disk/errors.js';
import { diskFailure } from '../disk/durable.js';
import type { ItemRecord } from '../format/backup-lines.js';
import { nameOfText, safeParts } from '../format/names.js';
import type { OpenArchive } from '../open/open-archive.js';
import { PIECE_BYTES, pieceAt } from '../open/chunk-opener.js';
import {
  finishFile,
  settable,
  type ReadingResult,
  type ReadingTask,
} from '../open/reading-task.js';
import { secondsOf } from '../pack/walk.js';

/** Small items go to a thread together. */
const BATCH_BYTES = SEGMENT_BYTES;
const BATCH_TASKS = 128;

export interface UnpackOptions {
  archive: OpenArchive;
  backup: string;
  /** A folder that is empty or not there yet. */
  to: string;
  /** Set-uid, set-gid and sticky bits come back too. */
  special?: boolean;
  /** Which items; all when not given. */
  only?: (path: string) => boolean;
  /** Hears of bytes of contents written, and items finished. */
  onProgress?: (bytes: number, items: number) => void;
  signal?: AbortSignal;
}

export interface UnpackResult {
  items: number;
  bytes: number;
  /** Paths of items that are damaged in the archive. They were left out; all others are there. */
  damaged: string[];
}

/**
 * Writes a backup's items into a folder: names, times, modes and links as they were. Every chunk is
 * compared with its id before it is written; nothing is written outside the folder, whatever the archive says.
 * @throws Failure `already-exists` when the folder is not empty, `archive-damaged` when the list itself is
 * damaged or names a place outside, `rack-full`, `rack-not-here`.
 */
export async function unpackBackup(options: UnpackOptions): Promise<UnpackResult> {
  const { archive, backup, to, only = () => true, signal } = options;
  await mkdir(to, { recursive: true });
  if ((await readdir(to)).length > 0) {
    throw new Failure('already-exists', {
      what: 'The folder to unpack into is not empty.',
      next: 'Choose a folder that is empty or does not exist.',
    });
  }
  await archive.prepare(signal);
  const unpacking = new Unpacking(options);
  try {
    for await (const item of archive.items(backup)) {
      signal?.throwIfAborted();
      if (only(item.path)) await unpacking.add(item);
    }
    return await unpacking.finish();
  } catch (error) {
    throw diskFailure(error);
  }
}

class Unpacking {
  readonly #archive: OpenArchive;
  readonly #root: string;
  readonly #special: boolean;
  readonly #onProgress: (bytes: number, items: number) => void;
  readonly #inFlight = new Set<Promise<void>>();
  readonly #damaged: string[] = [];
  readonly #folders: ItemRecord[] = [];
  readonly #links: ItemRecord[] = [];
  #batch: { task: ReadingTask; item: ItemRecord }[] = [];
  #batchBytes = 0;
  #items = 0;
  #bytes = 0;
  #lastFolder = '';
  #failure: Error | null = null;

  constructor({ archive, to, special = false, onProgress = () => undefined }: UnpackOptions) {
    this.#special = special;
    this.#archive = archive;
    this.#root = to;
    this.#onProgress = onProgress;
  }

  /** An item that cannot be put where it says is left out and named; it keeps no other from its place. */
  async add(item: ItemRecord): Promise<void> {
    try {
      await this.#add(item);
    } catch (error) {
      if (!isFinding(error) && !isOfOneItem(error)) throw error;
      this.#damaged.push(item.path);
    }
  }

  async #add(item: ItemRecord): Promise<void> {
    const parts = safeParts(item.path);
    if (item.kind === 'folder') {
      this.#makeFolder(parts);
      this.#folders.push(item);
      return;
    }
    this.#makeFolder(parts.slice(0, -1));
    // Links come last: until then nothing in the folder leads out of it.
    if (item.kind === 'link') this.#links.push(item);
    else await this.#addFile(item);
  }

  async finish(): Promise<UnpackResult> {
    this.#submit();
    while (this.#inFlight.size > 0) await Promise.race(this.#inFlight);
    if (this.#failure) throw this.#failure;
    for (const link of this.#links) {
      try {
        await this.#makeLink(link);
      } catch (error) {
        if (!isOfOneItem(error)) throw error;
        this.#damaged.push(link.path);
      }
    }
    // The innermost first: writing into a folder changes its time.
    for (const { path, mode, modified } of this.#folders.reverse()) {
      setTimes(this.#pathOf(path), modified);
      if (mode !== null) chmodSync(this.#pathOf(path), this.#modeOf(mode));
    }
    this.#items += this.#folders.length;
    this.#onProgress(0, this.#folders.length);
    return { items: this.#items, bytes: this.#bytes, damaged: this.#damaged };
  }

  async #addFile(item: ItemRecord): Promise<void> {
    let pieces: Buffer;
    try {
      pieces = this.#archive.piecesOf(item);
    } catch (error) {
      if (!isFinding(error)) throw error;
      this.#damaged.push(item.path);
      return;
    }
    if (item.bytes > SEGMENT_BYTES) return this.#addLongFile(item, pieces);
    const path = this.#pathOf(item.path);
    const { modified } = item;
    const mode = item.mode === null ? null : this.#modeOf(item.mode);
    this.#batch.push({
      task: { type: 'file', pieces, path, mode, modified: secondsOf(modified) },
      item,
    });
    this.#batchBytes += item.bytes;
    if (this.#batchBytes >= BATCH_BYTES || this.#batch.length >= BATCH_TASKS) this.#submit();
    await this.#room();
  }

  /** A long file is written by several threads, stretch by stretch. */
  async #addLongFile(item: ItemRecord, pieces: Buffer): Promise<void> {
    const path = this.#pathOf(item.path);
    closeSync(openSync(path, 'wx', 0o600));
    truncateSync(path, item.bytes);
    const stretches: Promise<void>[] = [];
    const outcome = { damaged: false };
    let offset = 0;
    for (let from = 0; from < pieces.length;) {
      let end = from;
      let bytes = 0;
      while (end < pieces.length && bytes < SEGMENT_BYTES) {
        bytes += pieceAt(pieces, end / PIECE_BYTES).place.plain;
        end += PIECE_BYTES;
      }
      const stretch = new Uint8Array(pieces.subarray(from, end));
      const task: ReadingTask = { type: 'stretch', pieces: stretch, path, offset };
      stretches.push(
        this.#do([task], ([result]) => {
          if (result?.type === 'damaged') outcome.damaged = true;
          else this.#count(result, bytes);
        }),
      );
      await this.#room();
      offset += bytes;
      from = end;
    }
    // Later stretches of other files need not wait for this one to be finished.
    const finished: Promise<void> = Promise.all(stretches)
      .then(async () => {
        if (outcome.damaged) return this.#leaveOut(item);
        const fd = openSync(path, 'r+');
        const mode = item.mode === null ? null : this.#modeOf(item.mode);
        finishFile(fd, mode, secondsOf(item.modified));
        closeSync(fd);
        this.#counted();
      })
      .catch((error: unknown) => void (this.#failure ??= asError(error)))
      .finally(() => this.#inFlight.delete(finished));
    this.#inFlight.add(finished);
  }

  #submit(): void {
    const batch = this.#batch;
    if (batch.length === 0) return;
    this.#batch = [];
    this.#batchBytes = 0;
    void this.#do(
      batch.map(({ task }) => task),
      async (results) => {
        for (const [number, { item }] of batch.entries()) {
          const result = results[number];
          const ofItem = result?.type === 'failed' && itemCodes.has(result.code);
          if (ofItem) this.#damaged.push(item.path);
          else if (result?.type === 'damaged') await this.#leaveOut(item);
          else {
            this.#count(result, item.bytes);
            this.#counted();
          }
        }
      },
    );
  }

  #do(
    tasks: ReadingTask[],
    then: (results: ReadingResult[]) => void | Promise<void>,
  ): Promise<void> {
    const done: Promise<void> = this.#archive
      .reading()
      .do(tasks)
      .then(then)
      .catch((error: unknown) => void (this.#failure ??= asError(error)))
      .finally(() => this.#inFlight.delete(done));
    this.#inFlight.add(done);
    return done;
  }

  async #room(): Promise<void> {
    while (this.#inFlight.size > this.#archive.reading().width) await Promise.race(this.#inFlight);
    if (this.#failure) throw this.#failure;
  }

  /** @throws NodeJS.ErrnoException when a file could not be written. */
  #count(result: ReadingResult | undefined, bytes: number): void {
    if (result?.type === 'failed') {
      throw Object.assign(new Error('a file could not be written'), { code: result.code });
    }
    this.#bytes += bytes;
    this.#onProgress(bytes, 0);
  }

  #counted(): void {
    this.#items += 1;
    this.#onProgress(0, 1);
  }

  async #leaveOut(item: ItemRecord): Promise<void> {
    await rm(this.#pathOf(item.path), { force: true });
    this.#damaged.push(item.path);
  }

  #makeFolder(parts: string[]): void {
    const path = parts.join('/');
    if (path === this.#lastFolder || path === '') return;
    this.#lastFolder = path;
    mkdirSync(this.#pathOf(path), { recursive: true, mode: 0o700 });
  }

  async #makeLink(item: ItemRecord): Promise<void> {
    const target: Uint8Array[] = [];
    try {
      for await (const piece of this.#archive.contents(item)) target.push(piece);
    } catch (error) {
      if (!isFinding(error)) throw error;
      this.#damaged.push(item.path);
      return;
    }
    const path = this.#pathOf(item.path);
    symlinkSync(Buffer.concat(target), path);
    setTimes(path, item.modified);
    this.#bytes += item.bytes;
    this.#counted();
  }

  /** Bits that let a program run as somebody else come back only where they were asked for. */
  #modeOf(mode: number): number {
    return this.#special ? mode : mode & 0o777;
  }

  #pathOf(path: string): Buffer {
    return Buffer.concat([Buffer.from(`${this.#root}/`), nameOfText(path)]);
  }
}

/** What a file system says of one name, and of nothing else. */
const itemCodes: ReadonlySet<string> = new Set([
  'EEXIST',
  'EISDIR',
  'ENOTDIR',
  'ENAMETOOLONG',
  'EINVAL',
  'EILSEQ',
  'ELOOP',
]);
const isOfOneItem = (error: unknown) =>
  error instanceof Error && 'code' in error && itemCodes.has(String(error.code));

/** Also of a link itself, not of what it leads to. */
function setTimes(path: Buffer, modified: string): void {
  const time = settable(secondsOf(modified));
  lutimesSync(path, time, time);
}

const asError = (thrown: unknown) => (thrown instanceof Error ? thrown : new Error('unknown'));
