import { createCipheriv, createHash } from 'node:crypto';
import { closeSync, mkdirSync, openSync, writeSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Made-up contents of a device, the same for the same size: mostly photographs and videos, which nothing
 * makes smaller, some databases, and many small files.
 */
const PHOTOGRAPH_MIN = 2_000_000;
const PHOTOGRAPH_SPREAD = 4_000_000;
const DATABASE_BYTES = 10_000_000;
const PAGE_BYTES = 4096;
const SMALL_FILES = 20_000;
const SMALL_BYTES = 4_500;
const SHARE = { photographs: 0.7, videos: 0.15 } as const;

/** Bytes that look random and are the same for the same name. */
class Noise {
  readonly #cipher;
  readonly #zeros = Buffer.alloc(2 ** 20);

  constructor(name: string) {
    const seed = createHash('sha256').update(name).digest();
    this.#cipher = createCipheriv('aes-256-ctr', seed, Buffer.alloc(16));
  }

  bytes(count: number): Buffer {
    return this.#cipher.update(this.#zeros.subarray(0, count));
  }

  /** A whole number from 0 to below `limit`. */
  below(limit: number): number {
    return this.bytes(4).readUInt32LE() % limit;
  }
}

function writeNoise(path: string, bytes: number, noise: Noise): void {
  const fd = openSync(path, 'w');
  for (let at = 0; at < bytes; at += 2 ** 20)
    writeSync(fd, noise.bytes(Math.min(2 ** 20, bytes - at)));
  closeSync(fd);
}

/** Pages as databases have them, rows of words and numbers, then nothing: so many that none is near its like. */
const POOL = 2048;
const pool: Buffer[] = [];

function poolPage(number: number): Buffer {
  const noise = new Noise(`page ${number}`);
  const words = ['message', 'received', 'thread', 'contact', 'delivered', 'photograph', 'name'];
  let text = '';
  while (text.length < PAGE_BYTES * 0.8) {
    text += `${noise.below(100_000)}|${words[noise.below(words.length)] ?? ''}|${noise.bytes(9).toString('base64')};`;
  }
  const bytes = Buffer.alloc(PAGE_BYTES);
  bytes.write(text.slice(0, PAGE_BYTES));
  return bytes;
}

/** A page that is like no other: one of the pool with a number of its own in every row. */
function page(noise: Noise): Buffer {
  const number = noise.below(POOL);
  const bytes = Buffer.from((pool[number] ??= poolPage(number)));
  const own = noise.bytes(6).toString('hex');
  for (let at = 0; at < PAGE_BYTES * 0.8; at += 256) bytes.write(own, at);
  return bytes;
}

export interface MadeData {
  /** The path of one photograph, below the folder. */
  photograph: string;
  databases: number;
  smallFiles: number;
}

/** Makes about `size` bytes below a folder that is not there yet. */
export function makeData(folder: string, size: number): MadeData {
  const names = ['photographs', 'videos', 'applications', 'notes'];
  for (const name of names) mkdirSync(join(folder, name), { recursive: true });
  const noise = new Noise(`data ${size}`);
  const photographs = addPhotographs(folder, 'first', size * SHARE.photographs);
  const videos = Math.max(1, Math.round((size * SHARE.videos) / 150_000_000));
  for (let number = 0; number < videos; number++) {
    const path = join(folder, 'videos', `video-${number}.mp4`);
    writeNoise(path, Math.round((size * SHARE.videos) / videos), noise);
  }
  const smallFiles = Math.min(SMALL_FILES, Math.round((size * 0.05) / SMALL_BYTES));
  for (let number = 0; number < smallFiles; number++) writeSmall(folder, number, 'first');
  const rest = size * (1 - SHARE.photographs - SHARE.videos) - smallFiles * SMALL_BYTES;
  const databases = Math.max(1, Math.round(rest / DATABASE_BYTES));
  for (let number = 0; number < databases; number++) {
    const fd = openSync(databasePath(folder, number), 'w');
    for (let at = 0; at < DATABASE_BYTES; at += PAGE_BYTES) writeSync(fd, page(noise));
    closeSync(fd);
  }
  return {
    photograph: photographs[Math.floor(photographs.length / 2)] ?? '',
    databases,
    smallFiles,
  };
}

/** Changes about 2 % of it: new photographs, pages of databases, small files. @param round makes each change another. */
export function changeData(folder: string, size: number, made: MadeData, round: number): void {
  const name = `round-${round}`;
  const noise = new Noise(name);
  addPhotographs(folder, name, size * 0.0165);
  for (let number = 0; number < Math.ceil(made.databases / 10); number++) {
    const fd = openSync(databasePath(folder, noise.below(made.databases)), 'r+');
    for (let pages = 0; pages < 40; pages++) {
      writeSync(
        fd,
        page(noise),
        0,
        PAGE_BYTES,
        noise.below(DATABASE_BYTES / PAGE_BYTES) * PAGE_BYTES,
      );
    }
    closeSync(fd);
  }
  for (let number = 0; number < made.smallFiles * 0.02; number++) {
    writeSmall(folder, noise.below(made.smallFiles), name);
  }
}

function addPhotographs(folder: string, name: string, bytes: number): string[] {
  const noise = new Noise(`photographs ${name}`);
  const paths: string[] = [];
  for (let left = bytes; left > 0;) {
    const path = `photographs/${name}-${paths.length}.jpg`;
    const length = PHOTOGRAPH_MIN + noise.below(PHOTOGRAPH_SPREAD);
    writeNoise(join(folder, path), length, noise);
    paths.push(path);
    left -= length;
  }
  return paths;
}

const databasePath = (folder: string, number: number) =>
  join(folder, 'applications', `store-${number}.db`);

function writeSmall(folder: string, number: number, name: string): void {
  const parent = join(folder, 'notes', `book-${number % 100}`);
  mkdirSync(parent, { recursive: true });
  const noise = new Noise(`${name} ${number}`);
  const fd = openSync(join(parent, `note-${number}.txt`), 'w');
  writeSync(fd, page(noise).subarray(0, 1000 + noise.below(3000)));
  writeSync(fd, page(noise).subarray(0, 1000 + noise.below(3000)));
  closeSync(fd);
}
