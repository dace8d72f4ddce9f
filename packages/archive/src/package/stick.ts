import { randomBytes } from 'node:crypto';
import { access, chmod, readdir, readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { diskFailure, renameDurably, writeFileDurably } from '../disk/durable.js';
import { mkdirInside, rm } from '../disk/medium.js';
import type { ItemRecord } from '../format/backup-lines.js';
import { withPassword } from '../keys/holders.js';
import { OpenArchive } from '../open/open-archive.js';
import type { BackupSummary } from '../open/backup-list.js';
import { BackupRun } from '../pack/backup-run.js';
import { archiveIn } from '../store/archive-files.js';
import { FolderFiles } from '../store/folder-files.js';
import { LOCK_SECRET } from '../store/folder-lock.js';
import { piecesOf } from '../store/read.js';
import { verifyOpen } from '../verify/verify.js';

/** The sealed folder of a stick: an archive of its own, with one backup in it. */
export const SEALED = 'sealed';
/** The page that opens it in any browser. Written last: a stick with it is whole. */
export const STICK_PAGE = 'open-this-page.html';
const STICK_WORDS = 'read-this.txt';

export interface StickOptions {
  archive: OpenArchive;
  backup: string;
  /** The folder that one copies onto a stick, or that lies on one. */
  to: string;
  /** Opens it. Its key is its own: whoever has the stick cannot open the archive that it comes from. */
  password: string;
  /** The page as one file. */
  page: string;
  threads?: number;
  onPhase?: (phase: 'exporting' | 'comparing', bytes: number) => void;
  onProgress?: (bytes: number, items: number) => void;
  signal?: AbortSignal;
}

export interface StickResult {
  items: number;
  bytes: number;
  /** Bytes of everything that was written. */
  stickBytes: number;
}

/**
 * Writes a backup as a folder that opens itself: the sealed data, and the page that reads it. All of it was read back from the
 * medium when this ends well. Cut off, the same call goes on from what is there.
 * @throws Failure `already-exists`, `archive-damaged` (a stick of a damaged backup is not written), `rack-full`, `rack-not-here`
 */
export async function writeStick(options: StickOptions): Promise<StickResult> {
  const { archive, backup, to, password, page, onPhase, onProgress, signal } = options;
  if (await isThere(join(to, STICK_PAGE)))
    throw new Failure('already-exists', { what: 'The stick is written already.' });
  const summary = await archive.backup(backup);
  await archive.prepare(signal);
  await mkdirInside(dirname(to), to);
  const files = archiveIn(join(to, SEALED));
  // A run that was cut off after that has only the rest to do.
  if (!(await isThere(join(to, SEALED)))) await packInto(files, summary, options);
  onPhase?.('comparing', 0);
  const sealed = await OpenArchive.open(files, withPassword(password), { lease: 'shared' });
  let stickBytes: number;
  try {
    await sealed.backup(backup);
    const report = await verifyOpen(sealed, {
      level: 'bytes',
      ...(signal ? { signal } : {}),
      onPhase: (_, bytes) => onPhase?.('comparing', bytes),
      ...(onProgress ? { onProgress } : {}),
    });
    if (!report.whole) throw notKept();
    stickBytes = report.storedBytes;
  } finally {
    await sealed.close();
  }
  const words = Buffer.from(wordsOf(summary));
  const contents = await readFile(page);
  await put(to, STICK_WORDS, words);
  await openToRead(to);
  await put(to, STICK_PAGE, contents);
  const { items, bytes } = summary.end;
  return { items, bytes, stickBytes: stickBytes + contents.length + words.length };
}

const isThere = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );

/** @throws Failure as {@link writeStick}; what was begun is gone then, unless the process itself ended */
async function packInto(
  files: ReturnType<typeof archiveIn>,
  { header, end }: BackupSummary,
  { archive, backup, password, threads, onPhase, onProgress, signal }: StickOptions,
): Promise<void> {
  const { label, ticket, device, takenAt } = header;
  onPhase?.('exporting', end.bytes);
  const run = await BackupRun.begin({
    ...{ files, secret: withPassword(password), backup, label, ticket, device },
    ...{ takenAt: new Date(takenAt), isPackage: true },
    ...(threads === undefined ? {} : { threads }),
    events: { taken: () => onProgress?.(0, 1), bytes: (count) => onProgress?.(count, 0) },
  });
  try {
    for await (const listed of archive.list(backup)) {
      signal?.throwIfAborted();
      // What could not be taken from the device is not on the stick either, and it says so.
      if (listed.type === 'failed') run.addFailure(withoutType(listed.failed));
      else await addItem(run, archive, listed.item, signal);
    }
    signal?.throwIfAborted();
    await run.commit();
  } catch (error) {
    await run.discard();
    throw error;
  }
}

const withoutType = ({
  type: _,
  ...failed
}: { type: 'failed' } & Parameters<BackupRun['addFailure']>[0]) => failed;

async function addItem(
  run: BackupRun,
  archive: OpenArchive,
  { chunks, ...item }: ItemRecord,
  signal: AbortSignal | undefined,
): Promise<void> {
  await run.addContents(item, async function* (from) {
    const range = { from, to: item.bytes };
    for await (const piece of archive.contents({ ...item, chunks }, range)) {
      signal?.throwIfAborted();
      yield piece;
    }
  });
}

/** Under a temporary name, synced, renamed, and read back. */
async function put(folder: string, name: string, contents: Buffer): Promise<void> {
  try {
    const temporary = join(folder, `.${name}.${randomBytes(4).toString('hex')}`);
    await writeFileDurably(temporary, contents);
    await chmod(temporary, 0o644).catch(() => undefined);
    await renameDurably(temporary, join(folder, name));
    const pieces: Uint8Array[] = [];
    for await (const piece of piecesOf(new FolderFiles(folder), name, { from: 'medium' }))
      pieces.push(Buffer.from(piece));
    if (Buffer.concat(pieces).equals(contents)) return;
  } catch (error) {
    throw diskFailure(error);
  }
  await rm(join(folder, name), { force: true });
  throw notKept();
}

/** It goes to somebody else's computer, where the medium knows whose files are: what lies on it is sealed. */
async function openToRead(folder: string): Promise<void> {
  await rm(join(folder, LOCK_SECRET), { force: true });
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  for (const entry of entries.toReversed()) {
    const mode = entry.isDirectory() ? 0o755 : 0o644;
    // Some media know nothing of it.
    await chmod(join(entry.parentPath, entry.name), mode).catch(() => undefined);
  }
  await chmod(folder, 0o755).catch(() => undefined);
}

const notKept = () =>
  new Failure('archive-damaged', {
    what: 'What was written is not what the medium gives back.',
    safe: 'The archive is as it was.',
    next: 'Take another stick: this one does not keep what it is given.',
  });

const wordsOf = ({ header }: BackupSummary): string =>
  [
    `What was on ${header.device?.name ?? 'a folder'} on ${header.takenAt.slice(0, 10)}, sealed with a password.`,
    '',
    `To read it: open “${STICK_PAGE}” in a browser (a current one, on any computer), choose this folder there, and type the`,
    'password. Nothing is sent anywhere, and no network is needed. Without the password nobody can read it, nor can the shop help.',
    '',
    `Keep this folder together: the page reads what lies in “${SEALED}”.`,
    '',
  ].join('\r\n');
