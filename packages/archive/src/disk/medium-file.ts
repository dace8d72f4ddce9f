import { closeSync, constants, fstatSync, readSync } from 'node:fs';
import type { StoredFile } from '../store/store.js';
import { codeOf } from './errors.js';
import { openPlain } from './hostile.js';

/**
 * What is read right after it was written comes from the system's memory, and says nothing of the medium. Linux reads past
 * that memory where a file system can (`O_DIRECT`: those of disks, NFS, SMB), into memory that begins where a page does.
 */
declare const WebAssembly: {
  Memory: new (pages: { initial: number }) => { buffer: ArrayBuffer };
};
const BLOCK_BYTES = 4096;
const PAGE_BYTES = 65_536;
const WINDOW_BYTES = 2 ** 20;

/** Memory of WebAssembly begins at a page; Node's own begins anywhere. */
const aligned = new WeakSet<ArrayBufferLike>();
/** Windows that no file uses now. */
const spare: Uint8Array[] = [];

/** Memory that can be read into straight from a medium, rounded up to whole pages. */
export function alignedBytes(bytes: number): Uint8Array<ArrayBuffer> {
  const { buffer } = new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE_BYTES) });
  aligned.add(buffer);
  return new Uint8Array(buffer);
}

/** @throws the system's error, or one that says `EINVAL` where it is no plain file */
export function openOnMedium(path: string): StoredFile {
  try {
    return new MediumFile(path, openPlain(path, constants.O_DIRECT));
  } catch (error) {
    if (codeOf(error) !== 'EINVAL') throw error;
    // Where the file system cannot: what it gives is the nearest there is.
    return new MediumFile(path, openPlain(path));
  }
}

class MediumFile implements StoredFile {
  readonly size: number;
  readonly #path: string;
  #fd: number;
  #mayReopen = true;
  readonly #window: Uint8Array;
  /** What of the file is in the window. */
  #from = 0;
  #to = 0;

  constructor(path: string, fd: number) {
    this.#path = path;
    this.#fd = fd;
    this.size = fstatSync(fd).size;
    this.#window = spare.pop() ?? alignedBytes(WINDOW_BYTES);
  }

  read(into: Uint8Array, from: number): number {
    if (isAligned(into) && from % BLOCK_BYTES === 0) {
      return this.#read(into, from);
    }
    if (from < this.#from || from >= this.#to) {
      this.#from = from - (from % BLOCK_BYTES);
      this.#to = this.#from + this.#read(this.#window, this.#from);
    }
    const found = this.#window.subarray(from - this.#from, this.#to - this.#from);
    into.set(found.subarray(0, into.length));
    return Math.min(found.length, into.length);
  }

  /** Some file systems open a file so, and say only when it is read that they cannot. */
  #read(into: Uint8Array, from: number): number {
    try {
      return readSync(this.#fd, into, 0, into.length, from);
    } catch (error) {
      if (codeOf(error) !== 'EINVAL' || !this.#mayReopen) throw error;
      this.#mayReopen = false;
      const plain = openPlain(this.#path);
      closeSync(this.#fd);
      this.#fd = plain;
      return readSync(this.#fd, into, 0, into.length, from);
    }
  }

  close(): void {
    closeSync(this.#fd);
    spare.push(this.#window);
  }
}

const isAligned = ({ buffer, byteOffset, length }: Uint8Array) =>
  aligned.has(buffer) && byteOffset % BLOCK_BYTES === 0 && length % BLOCK_BYTES === 0;
