import {
  closeSync,
  constants,
  ftruncateSync,
  futimesSync,
  fchmodSync,
  openSync,
  writeSync,
} from 'node:fs';
import { Failure } from '@bright-cellar/core';
import { isFinding, wasNotAsked, codeOf } from '../disk/errors.js';
import { bufferOver } from '../tools/buffer-over.js';
import { Blake2BHasher } from '../tools/native.js';
import { type ChunkOpener, PIECE_BYTES, pieceAt } from './chunk-opener.js';

/** What a reading thread is asked to do. `pieces` as chunk-opener.ts lays them out. */
export type ReadingTask =
  /** Give the bytes of the pieces, one after the other. */
  | { type: 'bytes'; pieces: Uint8Array; digest: boolean }
  /** Write a whole new file. */
  | { type: 'file'; pieces: Uint8Array; path: Uint8Array; mode: number | null; modified: number }
  /** Write into a file that is there, from an offset on. */
  | { type: 'stretch'; pieces: Uint8Array; path: Uint8Array; offset: number };

export type ReadingResult =
  | { type: 'done'; chunks: Uint8Array[]; digest: string | null }
  /** A chunk was not what was written. */
  | { type: 'damaged' }
  /** The file to write could not be written, or the rack was not reached, which is `ENOTCONN`. */
  | { type: 'failed'; code: string };

const zeros = Buffer.alloc(2 ** 20);
const isZero = (chunk: Buffer) => chunk.length > 0 && chunk.equals(zeros.subarray(0, chunk.length));

export async function doReadingTask(
  opener: ChunkOpener,
  task: ReadingTask,
): Promise<ReadingResult> {
  try {
    if (task.type === 'bytes') return await giveBytes(opener, task);
    if (task.type === 'file') await writeWhole(opener, task);
    else await writeStretch(opener, task);
    return { type: 'done', chunks: [], digest: null };
  } catch (error) {
    if (isFinding(error)) return { type: 'damaged' };
    return { type: 'failed', code: wasNotAsked(error) ? 'ENOTCONN' : String(codeOf(error)) };
  }
}

type Done = Extract<ReadingResult, { type: 'done' }>;

/** @throws Failure `archive-damaged`, `rack-not-here` */
export function mustBeDone(result: ReadingResult | undefined): Done {
  if (result?.type === 'done') return result;
  const wasReached = result?.type !== 'failed' || result.code !== 'ENOTCONN';
  throw new Failure(wasReached ? 'archive-damaged' : 'rack-not-here');
}

async function* chunksOf(opener: ChunkOpener, pieces: Uint8Array): AsyncGenerator<Buffer> {
  const all = bufferOver(pieces);
  for (let number = 0; number < all.length / PIECE_BYTES; number++) {
    const { id, place } = pieceAt(all, number);
    yield await opener.open(id, place);
  }
}

async function giveBytes(
  opener: ChunkOpener,
  { pieces, digest }: Extract<ReadingTask, { type: 'bytes' }>,
): Promise<ReadingResult> {
  // Chunk by chunk: memory of about one length is used again; blocks of many lengths leave holes.
  const chunks: Uint8Array[] = [];
  const hash = digest ? new Blake2BHasher() : null;
  for await (const chunk of chunksOf(opener, pieces)) {
    hash?.update(chunk);
    // Not from Node's pool: it goes to another thread whole.
    const own = Buffer.allocUnsafeSlow(chunk.length);
    chunk.copy(own);
    chunks.push(own);
  }
  return { type: 'done', chunks, digest: hash?.digest('hex') ?? null };
}

async function writeWhole(
  opener: ChunkOpener,
  { pieces, path, mode, modified }: Extract<ReadingTask, { type: 'file' }>,
): Promise<void> {
  const fd = openSync(
    bufferOver(path),
    constants.O_WRONLY | constants.O_CREAT | constants.O_EXCL | constants.O_NOFOLLOW,
    0o600,
  );
  try {
    const { end, written } = await writeChunks(fd, opener, pieces, 0);
    if (written < end) ftruncateSync(fd, end);
    finishFile(fd, mode, modified);
  } finally {
    closeSync(fd);
  }
}

async function writeStretch(
  opener: ChunkOpener,
  { pieces, path, offset }: Extract<ReadingTask, { type: 'stretch' }>,
): Promise<void> {
  const fd = openSync(bufferOver(path), constants.O_WRONLY | constants.O_NOFOLLOW);
  try {
    await writeChunks(fd, opener, pieces, offset);
  } finally {
    closeSync(fd);
  }
}

/** @returns where the chunks end, and where what was written of them ends. */
async function writeChunks(fd: number, opener: ChunkOpener, pieces: Uint8Array, from: number) {
  let at = from;
  let written = from;
  for await (const chunk of chunksOf(opener, pieces)) {
    // What is all zeros is left as a hole.
    if (!isZero(chunk)) {
      for (let done = 0; done < chunk.length;) {
        done += writeSync(fd, chunk, done, chunk.length - done, at + done);
      }
      written = at + chunk.length;
    }
    at += chunk.length;
  }
  return { end: at, written };
}

/** Node takes a number below zero for now, and a date for what it is, to the millisecond. @param seconds since 1970 */
export const settable = (seconds: number): number | Date =>
  seconds < 0 ? new Date(seconds * 1000) : seconds;

/** @param modified seconds since 1970. */
export function finishFile(fd: number, mode: number | null, modified: number): void {
  futimesSync(fd, settable(modified), settable(modified));
  if (mode !== null) fchmodSync(fd, mode);
}
