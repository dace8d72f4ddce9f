import { createHash } from 'node:crypto';
import { closeSync, constants, ftruncateSync, openSync, readSync, writeSync } from 'node:fs';
import { basename, dirname } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { isFinding, mustBeAsked } from '../disk/errors.js';
import { tell } from '../disk/medium.js';
import { FolderFiles } from '../store/folder-files.js';
import { fill } from '../store/read.js';
import type { Files, StoredFile } from '../store/store.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { compress, decompress } from './compression.js';
import {
  FRAME_HEAD_BYTES,
  FRAME_MAX_BYTES,
  FRAME_MAX_PLAIN,
  FRAME_OVERHEAD,
  FrameCipher,
  HEADER_BYTES,
  idOfHeader,
  newSealedId,
  readFrameHead,
  sealedHeader,
  type SealedKind,
} from './sealed.js';

/**
 * Sealed files: written on this computer, read from wherever they lie. Writing is synchronous on purpose: this is what
 * worker threads do all day, and pieces of at most a mebibyte stay in a core's fast memory all the way.
 */
const BUFFER_BYTES = 2 ** 20;
/** Most files are short: the buffer begins with this, and grows. */
const FIRST_BYTES = 16 * 2 ** 10;

/** What a finished file is for the manifest. */
export interface FileFacts {
  /** Bytes. */
  size: number;
  /** Hexadecimal. */
  sha512: string;
}

/** Writes one sealed file, front to back. */
export class SealedWriter {
  readonly id: Buffer;
  readonly path: string;
  readonly #fd: number;
  readonly #cipher: FrameCipher;
  readonly #digest = createHash('sha512');
  #buffer = Buffer.allocUnsafeSlow(FIRST_BYTES);
  #filled = 0;
  #written = 0;
  #closed = false;

  /** @throws NodeJS.ErrnoException of the file system. */
  constructor(path: string, kind: SealedKind, key: ArchiveKey, id = newSealedId()) {
    this.id = id;
    this.path = path;
    this.#fd = openSync(path, 'wx', 0o600);
    tell(() => ({ do: 'create', path }));
    this.#cipher = new FrameCipher(key, kind, id);
    this.#filled = sealedHeader(kind, id).copy(this.#buffer);
  }

  /** Bytes so far. */
  get size(): number {
    return this.#written + this.#filled;
  }

  /** @param plain at most {@link FRAME_MAX_PLAIN} bytes. Compressed when that helps. */
  append(plain: Buffer): { offset: number; stored: number } {
    const packed = compress(plain);
    return this.#seal(packed ?? plain, plain.length, false);
  }

  /** Hands what was appended to the operating system. It is durable after a sync of the file. */
  flush(): void {
    const bytes = this.#buffer.subarray(0, this.#filled);
    this.#digest.update(bytes);
    for (let at = 0; at < bytes.length;) at += writeSync(this.#fd, bytes, at);
    const { path } = this;
    const from = this.#written;
    tell(() => ({ do: 'write', path, at: from, bytes: Buffer.from(bytes) }));
    this.#written += this.#filled;
    this.#filled = 0;
  }

  /** Ends the file and closes it. It is durable after a sync of it and of its folder. */
  finish(): FileFacts {
    this.#seal(Buffer.alloc(0), 0, true);
    this.flush();
    this.close();
    return { size: this.#written, sha512: this.#digest.digest('hex') };
  }

  /** Gives up, unless it is finished: the file then stays unfinished and cannot be read as a whole one. */
  close(): void {
    if (this.#closed) return;
    this.#closed = true;
    this.#cipher.forget();
    closeSync(this.#fd);
  }

  #seal(body: Buffer, plain: number, last: boolean): { offset: number; stored: number } {
    if (plain > FRAME_MAX_PLAIN) throw new RangeError('frame too long');
    const offset = this.size;
    this.#makeRoomFor(body.length + FRAME_OVERHEAD);
    this.#filled += this.#cipher.seal(offset, body, plain, this.#buffer, this.#filled, last);
    if (this.#filled >= BUFFER_BYTES) this.flush();
    return { offset, stored: body.length };
  }

  #makeRoomFor(bytes: number): void {
    const needed = this.#filled + bytes;
    if (needed <= this.#buffer.length) return;
    const doubled = Math.min(this.#buffer.length * 2, BUFFER_BYTES + FRAME_MAX_BYTES);
    const larger = Buffer.allocUnsafeSlow(Math.max(needed, doubled));
    this.#buffer.copy(larger, 0, 0, this.#filled);
    this.#buffer = larger;
  }
}

/** A frame and where it lies. */
export interface OpenedFrame {
  offset: number;
  stored: number;
  plain: Buffer;
}

/**
 * Where frames are read and opened. Used again for every frame: fresh memory costs more than the work on
 * it. Readers that share one overwrite each other's last frame, and leave nothing behind when they close.
 */
export class FrameSpace {
  #frame = Buffer.alloc(0);
  #body = Buffer.alloc(0);

  /** Room for a frame, and for what was sealed in it. @param stored bytes of its ciphertext. */
  for(stored: number): { frame: Buffer; body: Buffer } {
    if (this.#frame.length < stored + FRAME_OVERHEAD) {
      this.#frame = Buffer.allocUnsafeSlow(stored + FRAME_OVERHEAD);
      this.#body = Buffer.allocUnsafeSlow(stored);
    }
    return { frame: this.#frame.subarray(0, stored + FRAME_OVERHEAD), body: this.#body };
  }
}

/** Reads a sealed file: single frames by their place, or all from front to back. One thing at a time. */
export class SealedReader {
  readonly id: Buffer;
  readonly size: number;
  readonly #file: StoredFile;
  readonly #cipher: FrameCipher;
  readonly #space: FrameSpace;

  private constructor(
    file: StoredFile,
    header: Buffer,
    kind: SealedKind,
    key: ArchiveKey,
    space: FrameSpace,
  ) {
    this.#file = file;
    this.#space = space;
    this.size = file.size;
    this.id = idOfHeader(header, kind);
    this.#cipher = new FrameCipher(key, kind, this.id);
  }

  /** @throws Failure `archive-damaged` (also when it is not there), `archive-format-unknown`. */
  static async open(
    files: Files,
    name: string,
    kind: SealedKind,
    key: ArchiveKey,
    space = new FrameSpace(),
  ): Promise<SealedReader> {
    let file: StoredFile;
    try {
      file = await files.open(name);
    } catch (error) {
      mustBeAsked(error);
      throw new Failure('archive-damaged', {}, { cause: error });
    }
    try {
      const header = Buffer.alloc(HEADER_BYTES);
      await fillWhole(file, header, 0);
      return new SealedReader(file, header, kind, key, space);
    } catch (error) {
      file.close();
      throw error;
    }
  }

  /**
   * One chunk or one piece of a list by its place. It is overwritten by the next.
   * @throws Failure `archive-damaged` when a single bit of it differs.
   */
  async readAt(offset: number, stored: number, plain: number): Promise<Buffer> {
    const { head, body } = await this.#open(offset, stored);
    if (head.plain !== plain || head.last) throw new Failure('archive-damaged');
    return head.compressed ? decompress(body, plain) : body;
  }

  /** Every frame in order; each is overwritten by the next. @throws Failure `archive-damaged`, also when the file ends early or goes on too long. */
  async *frames(): AsyncGenerator<OpenedFrame> {
    let offset = HEADER_BYTES;
    for (;;) {
      const { plain, stored, last } = await this.#next(offset);
      const next = offset + stored + FRAME_OVERHEAD;
      if (last) {
        if (next !== this.size) throw new Failure('archive-damaged');
        return;
      }
      yield { offset, stored, plain };
      offset = next;
    }
  }

  /** The frames of a file that may have been cut off: ends, without an error, where they stop being whole. */
  async *framesUntilTorn(): AsyncGenerator<OpenedFrame> {
    try {
      yield* this.frames();
    } catch (error) {
      if (!isFinding(error)) throw error;
    }
  }

  /** Every frame that opens, past those that do not: as far as the lengths between them make sense. */
  async *soundFrames(): AsyncGenerator<OpenedFrame> {
    const headBytes = Buffer.alloc(FRAME_HEAD_BYTES);
    for (let offset = HEADER_BYTES; offset + FRAME_OVERHEAD <= this.size;) {
      let stored: number;
      try {
        await fillWhole(this.#file, headBytes, offset);
        const head = readFrameHead(headBytes);
        if (head.last) return;
        stored = head.stored;
      } catch (error) {
        if (isFinding(error)) return;
        throw error;
      }
      let plain: Buffer | null = null;
      try {
        plain = (await this.#next(offset)).plain;
      } catch (error) {
        if (!isFinding(error)) throw error;
      }
      if (plain) yield { offset, stored, plain };
      offset += stored + FRAME_OVERHEAD;
    }
  }

  /** The last frame that carries something, found without opening those before it. */
  async lastFrame(): Promise<OpenedFrame> {
    let offset = HEADER_BYTES;
    let found = -1;
    const head = Buffer.alloc(FRAME_HEAD_BYTES);
    for (;;) {
      await fillWhole(this.#file, head, offset);
      const { stored, last } = readFrameHead(head);
      if (last) break;
      found = offset;
      offset += stored + FRAME_OVERHEAD;
    }
    if (found < 0) throw new Failure('archive-damaged');
    return { offset: found, ...(await this.#next(found)) };
  }

  close(): void {
    this.#cipher.forget();
    this.#file.close();
  }

  async #next(offset: number): Promise<{ plain: Buffer; stored: number; last: boolean }> {
    const headBytes = Buffer.alloc(FRAME_HEAD_BYTES);
    await fillWhole(this.#file, headBytes, offset);
    const { stored } = readFrameHead(headBytes);
    const { head, body } = await this.#open(offset, stored);
    const plain = head.compressed ? decompress(body, head.plain) : body;
    return { plain, stored, last: head.last };
  }

  async #open(offset: number, stored: number) {
    if (stored > FRAME_MAX_PLAIN) throw new Failure('archive-damaged');
    const { frame, body } = this.#space.for(stored);
    await fillWhole(this.#file, frame, offset);
    return this.#cipher.open(offset, frame, body);
  }
}

async function fillWhole(file: StoredFile, target: Buffer, offset: number): Promise<void> {
  if (offset + target.length > file.size) throw new Failure('archive-damaged');
  if ((await fill(file, target, offset)) < target.length) throw new Failure('archive-damaged');
}

/**
 * Makes a file that was cut off while it was written whole again: what is sound stays, the torn rest
 * goes, and it gets its last frame. Nothing is ever appended to it: a place once used is never used for
 * other bytes under the same key.
 * @param onFrame hears of every frame that stays.
 * @returns null when nothing of it is sound; the file is as it was then.
 */
export async function salvage(
  path: string,
  kind: SealedKind,
  key: ArchiveKey,
  onFrame: (frame: OpenedFrame) => void,
): Promise<(FileFacts & { id: Buffer }) | null> {
  let id: Buffer;
  let end = HEADER_BYTES;
  try {
    const files = new FolderFiles(dirname(path));
    const reader = await SealedReader.open(files, basename(path), kind, key);
    id = Buffer.from(reader.id);
    try {
      for await (const frame of reader.framesUntilTorn()) {
        onFrame(frame);
        end = frame.offset + frame.stored + FRAME_OVERHEAD;
      }
    } finally {
      reader.close();
    }
  } catch (error) {
    if (isFinding(error)) return null;
    throw error;
  }
  if (end === HEADER_BYTES) return null;
  const fd = openSync(path, constants.O_RDWR | constants.O_NOFOLLOW);
  try {
    ftruncateSync(fd, end);
    const last = Buffer.alloc(FRAME_OVERHEAD);
    const cipher = new FrameCipher(key, kind, id);
    cipher.seal(end, Buffer.alloc(0), 0, last, 0, true);
    cipher.forget();
    writeSync(fd, last, 0, last.length, end);
    const digest = createHash('sha512');
    const buffer = Buffer.allocUnsafeSlow(BUFFER_BYTES);
    for (let at = 0; ;) {
      const count = readSync(fd, buffer, 0, buffer.length, at);
      if (count === 0) break;
      digest.update(buffer.subarray(0, count));
      at += count;
    }
    return { id, size: end + FRAME_OVERHEAD, sha512: digest.digest('hex') };
  } finally {
    closeSync(fd);
  }
}
