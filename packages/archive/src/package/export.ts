import { access, stat } from 'node:fs/promises';
import { Failure, readableName, SEGMENT_BYTES } from '@bright-cellar/core';
import { pack as tarPack, type Header, type Pack } from 'tar-stream';
import type { ItemRecord } from '../format/backup-lines.js';
import { safeParts } from '../format/names.js';
import type { Listed, OpenArchive } from '../open/open-archive.js';
import type { BackupSummary } from '../open/backup-list.js';
import { mustBeDone, type ReadingResult, type ReadingTask } from '../open/reading-task.js';
import { nanosecondsOf, secondsOf } from '../pack/walk.js';
import { bufferOver } from '../tools/buffer-over.js';
import { collectGarbage } from '../tools/collect.js';
import { drained } from '../tools/drained.js';
import { Blake2BHasher } from '../tools/native.js';
import { AgeFile } from './age-file.js';
import type { AgeRecipient } from './age-payload.js';
import { DigestList } from './digest-list.js';
import { CONTENTS, indexPage } from './index-page.js';

/** What a package says of its backup, so that it can be taken in again. */
export const ABOUT = 'about.json';
export const CHECKSUMS = 'checksums.b2';
export const INDEX = 'index.html';
/** What a file is, where its source said so, as an extended attribute that desktops know (freedesktop.org, shared MIME-info). */
export const FORMAT_ATTRIBUTE = 'SCHILY.xattr.user.mime_type';

/** Lists of up to this many items are kept in memory rather than read five times. */
const KEPT_ITEMS = 50_000;
const BATCH_BYTES = 4 * 2 ** 20;
const BATCH_TASKS = 64;
/** Batches that are read ahead: two in work, one waiting. */
const BATCHES_AHEAD = 3;

export interface ExportOptions {
  archive: OpenArchive;
  backup: string;
  /** A file that is not there yet. */
  to: string;
  recipient: AgeRecipient;
  onProgress?: (bytes: number, items: number) => void;
  signal?: AbortSignal;
}

export interface ExportResult {
  items: number;
  bytes: number;
  /** Bytes of the package. */
  packageBytes: number;
}

/**
 * Writes a backup as one age file with a tar archive in it: an ordinary tree, a page that lists it, and
 * checksums. Opens with `age -d package | tar x`, without this program.
 * @throws Failure `already-exists`, `archive-damaged` (a package of a damaged backup is not written),
 * `rack-full`, `rack-not-here`.
 */
export async function exportPackage(options: ExportOptions): Promise<ExportResult> {
  const { archive, backup, to, recipient, signal } = options;
  const there = await access(to).then(
    () => true,
    () => false,
  );
  if (there) throw new Failure('already-exists', { what: 'The file to write is there already.' });
  const summary = await archive.backup(backup);
  await archive.prepare(signal);
  const file = await AgeFile.create(to, recipient);
  try {
    const list = await listOf(archive, summary);
    const tar = new TarWriter(file, topFolderOf(summary));
    await tar.file(ABOUT, aboutOf(summary), summary.header.takenAt);
    await writeIndex(tar, list, summary);
    const digests = await writeItems(tar, list, options);
    await writeChecksums(tar, list, summary, digests);
    signal?.throwIfAborted();
    await tar.finish();
    await file.finish();
    const { items, bytes } = summary.end;
    return { items, bytes, packageBytes: (await stat(to)).size };
  } catch (error) {
    await file.abandon();
    throw error;
  }
}

/** The backup's list, as often as it is asked for. */
type List = () => AsyncIterable<Listed> | Iterable<Listed>;

async function listOf(archive: OpenArchive, { header, end }: BackupSummary): Promise<List> {
  if (end.items + end.failed > KEPT_ITEMS) return () => archive.list(header.backup);
  const kept: Listed[] = [];
  for await (const listed of archive.list(header.backup)) kept.push(listed);
  return () => kept;
}

async function* itemsOf(list: List): AsyncGenerator<ItemRecord> {
  for await (const listed of list()) if (listed.type === 'item') yield listed.item;
}

const topFolderOf = ({ header }: BackupSummary) =>
  `backup-${header.takenAt.slice(0, 10)}-${header.backup.slice(0, 8)}`;

function aboutOf({ header, end }: BackupSummary): Buffer {
  const { label, ticket, device, takenAt, backup } = header;
  const about = {
    format: 'bright-cellar-package',
    version: 1,
    ...{ backup, takenAt, label, ticket, device },
    ...{ items: end.items, bytes: end.bytes },
  };
  return Buffer.from(`${JSON.stringify(about, null, 2)}\n`);
}

/** Written in two passes: its length stands before it, and it is too long to be kept. */
async function writeIndex(tar: TarWriter, list: List, summary: BackupSummary) {
  const page = () => indexPage(summary, list());
  let bytes = 0;
  for await (const piece of page()) bytes += piece.length;
  await tar.begin({ name: INDEX, size: bytes, ...timesOf(summary.header.takenAt) });
  for await (const piece of page()) await tar.bytes(piece);
  await tar.end();
}

/** @returns BLAKE2b-512 of every file, in order. */
async function writeItems(tar: TarWriter, list: List, options: ExportOptions): Promise<DigestList> {
  const { archive, onProgress, signal } = options;
  const digests = new DigestList();
  for await (const { item, chunks, digest } of readAhead(archive, itemsOf(list))) {
    signal?.throwIfAborted();
    const header = {
      name: nameIn(item),
      ...extended(timesOf(item.modified), item.format),
      mode: (item.mode ?? 0o600) & 0o777,
    };
    if (item.kind === 'folder') {
      await tar.begin({ ...header, type: 'directory', size: 0 });
      await tar.end();
    } else if (item.kind === 'link') {
      const target = Buffer.concat(chunks ?? []).toString('utf8');
      await tar.begin({ ...header, type: 'symlink', linkname: target, size: 0 });
      await tar.end();
    } else {
      await tar.begin({ ...header, size: item.bytes });
      for (const chunk of chunks ?? []) await tar.bytes(chunk);
      digests.add(digest ?? (await writeLong(tar, archive, item, onProgress)));
      await tar.end();
    }
    onProgress?.(chunks ? item.bytes : 0, 1);
  }
  return digests;
}

async function writeLong(
  tar: TarWriter,
  archive: OpenArchive,
  item: ItemRecord,
  onProgress: ExportOptions['onProgress'],
): Promise<Buffer> {
  const hash = new Blake2BHasher();
  for await (const piece of archive.contents(item)) {
    hash.update(bufferOver(piece));
    await tar.bytes(piece);
    onProgress?.(piece.length, 0);
  }
  return hash.digestBuffer();
}

async function writeChecksums(
  tar: TarWriter,
  list: List,
  { header }: BackupSummary,
  digests: DigestList,
): Promise<void> {
  const pass = async function* () {
    const next = digests[Symbol.iterator]();
    for await (const item of itemsOf(list)) {
      if (item.kind !== 'file') continue;
      const digest = next.next();
      if (!digest.done) yield checksumLine(digest.value, nameIn(item));
    }
  };
  let bytes = 0;
  for await (const line of pass()) bytes += line.length;
  await tar.begin({ name: CHECKSUMS, size: bytes, ...timesOf(header.takenAt) });
  for await (const line of pass()) await tar.bytes(line);
  await tar.end();
}

/** As `b2sum` writes it: a name with a backslash or a line break is marked and escaped. */
export function checksumLine(digest: Buffer, name: string): Buffer {
  const escaped = name.replaceAll('\\', '\\\\').replaceAll('\n', '\\n').replaceAll('\r', '\\r');
  return Buffer.from(`${escaped === name ? '' : '\\'}${digest.toString('hex')}  ${escaped}\n`);
}

/** An item's name below the package's top folder. @throws Failure `archive-damaged` for one that leads out of it. */
const nameIn = (item: ItemRecord) =>
  [CONTENTS, ...safeParts(item.path)].map(readableName).join('/');

/** tar knows whole seconds; its extended headers know the rest. */
function timesOf(time: string): { mtime: Date; pax?: { mtime: string } } {
  const ns = nanosecondsOf(time);
  const seconds = Math.floor(secondsOf(time));
  // Eleven octal digits, none of them below zero: from 1970 to 2242.
  const known = Math.min(Math.max(seconds, 0), 8 ** 11 - 1);
  const isExact = BigInt(known) * NS === ns;
  return {
    mtime: new Date(known * 1000),
    ...(isExact ? {} : { pax: { mtime: decimalSeconds(ns) } }),
  };
}

/** With what the file is, where that was said. */
const extended = ({ mtime, pax }: ReturnType<typeof timesOf>, format: string | undefined) => ({
  mtime,
  ...(pax || format ? { pax: { ...pax, ...(format ? { [FORMAT_ATTRIBUTE]: format } : {}) } } : {}),
});

const NS = 1_000_000_000n;

/** Seconds with a fraction, as POSIX pax writes a time: `-1.5` lies half a second before `-1`. */
function decimalSeconds(ns: bigint): string {
  const [sign, size] = ns < 0n ? ['-', -ns] : ['', ns];
  const fraction = (size % NS).toString().padStart(9, '0').replace(/0+$/, '');
  return `${sign}${size / NS}${fraction ? `.${fraction}` : ''}`;
}

interface Fetched {
  item: ItemRecord;
  /** Its contents; null for what is read piece by piece. */
  chunks: Uint8Array[] | null;
  digest: Buffer | null;
}

/** Items in order, their contents read and digested by other threads ahead of time. */
async function* readAhead(
  archive: OpenArchive,
  items: AsyncIterable<ItemRecord>,
): AsyncGenerator<Fetched> {
  const waiting: Promise<Fetched[]>[] = [];
  let batch: ItemRecord[] = [];
  let bytes = 0;
  const submit = () => {
    const fetched = fetch(archive, batch);
    // Waited for in turn: a failure is not unhandled until then.
    fetched.catch(() => undefined);
    waiting.push(fetched);
    batch = [];
    bytes = 0;
  };
  for await (const item of items) {
    batch.push(item);
    bytes += item.bytes > SEGMENT_BYTES ? 0 : item.bytes;
    if (bytes < BATCH_BYTES && batch.length < BATCH_TASKS) continue;
    submit();
    if (waiting.length < BATCHES_AHEAD) continue;
    yield* (await waiting.shift()) ?? [];
    await collectGarbage();
  }
  submit();
  for (const fetched of waiting) yield* await fetched;
}

async function fetch(archive: OpenArchive, items: ItemRecord[]): Promise<Fetched[]> {
  const short = items.filter((item) => item.kind !== 'folder' && item.bytes <= SEGMENT_BYTES);
  const tasks = short.map((item): ReadingTask => ({
    type: 'bytes',
    pieces: archive.piecesOf(item),
    digest: true,
  }));
  const results = await archive.reading().do(tasks);
  const found = new Map<ItemRecord, ReadingResult | undefined>(
    short.map((item, number) => [item, results[number]]),
  );
  return items.map((item) => {
    if (!found.has(item)) return { item, chunks: null, digest: null };
    const { chunks, digest } = mustBeDone(found.get(item));
    return { item, chunks, digest: Buffer.from(digest ?? '', 'hex') };
  });
}

/** Writes tar entries (POSIX pax) into an age file, one after the other. */
class TarWriter {
  readonly #pack: Pack = tarPack({});
  readonly #top: string;
  readonly #written: Promise<void>;
  #entry: ReturnType<Pack['entry']> | null = null;
  #ended: Promise<void> = Promise.resolve();
  #failure: unknown = null;

  constructor(file: AgeFile, top: string) {
    this.#top = top;
    this.#written = (async () => {
      for await (const piece of this.#pack as unknown as AsyncIterable<Uint8Array>)
        await file.write(piece);
    })();
    this.#written.catch((error: unknown) => {
      this.#failure = error;
      this.#entry?.destroy();
    });
  }

  async begin(header: Partial<Header> & { name: string }): Promise<void> {
    const name = `${this.#top}/${header.name}`;
    this.#ended = new Promise((resolve, reject) => {
      this.#entry = this.#pack.entry({ ...header, name }, (error) => {
        if (error) reject(error);
        else resolve();
      });
    });
    this.#ended.catch(() => undefined);
  }

  async bytes(piece: Uint8Array): Promise<void> {
    if (this.#failure) throw this.#failure as Error;
    const entry = this.#entry;
    if (!entry || entry.write(piece)) return;
    await drained(entry);
  }

  async end(): Promise<void> {
    this.#entry?.end(undefined);
    await this.#ended.catch((error: unknown) => {
      throw this.#failure ?? error;
    });
  }

  async file(name: string, contents: Buffer, time: string): Promise<void> {
    await this.begin({ name, size: contents.length, ...timesOf(time) });
    await this.bytes(contents);
    await this.end();
  }

  async finish(): Promise<void> {
    this.#pack.finalize();
    await this.#written;
  }
}
