import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

export interface Kept {
  bytes: Buffer;
  etag: string;
  /** ms, by the clock of the storage. */
  at: number;
}

export interface Upload {
  key: string;
  at: number;
  parts: Map<number, Kept>;
}

export const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();
const etagOf = (bytes: Uint8Array) => `"${md5(bytes).toString('hex')}"`;

/** The name of an object’s file: keys are longer than names may be. */
const nameOf = (key: string) => createHash('sha256').update(key).digest('hex');
/** What is being written. */
const UNFINISHED = '.unfinished';

/**
 * What an object storage holds, in memory; with a folder it is there again after another start, but for what was being sent in
 * parts. A file is one object: a line with what is known of it, then its bytes.
 */
export class Shelf {
  readonly #objects = new Map<string, Kept>();
  readonly #uploads = new Map<string, Upload>();
  readonly #folder: string | null;

  constructor(folder: string | null = null) {
    this.#folder = folder;
    if (folder === null) return;
    mkdirSync(folder, { recursive: true });
    for (const name of readdirSync(folder)) {
      if (name === UNFINISHED) continue;
      const file = readFileSync(join(folder, name));
      const end = file.indexOf('\n');
      const { key, etag, at } = JSON.parse(file.toString('utf8', 0, end)) as Omit<Kept, 'bytes'> & {
        key: string;
      };
      this.#objects.set(key, { bytes: file.subarray(end + 1), etag, at });
    }
  }

  /** How much there is. */
  get amount(): { objects: number; bytes: number } {
    let bytes = 0;
    for (const kept of this.#objects.values()) bytes += kept.bytes.length;
    return { objects: this.#objects.size, bytes };
  }

  get(key: string): Kept | undefined {
    return this.#objects.get(key);
  }

  put(key: string, bytes: Buffer, at: number, etag = etagOf(bytes)): Kept {
    const kept = { bytes, etag, at };
    if (this.#folder !== null) {
      const unfinished = join(this.#folder, UNFINISHED);
      writeFileSync(
        unfinished,
        Buffer.concat([Buffer.from(`${JSON.stringify({ key, etag, at })}\n`), bytes]),
      );
      renameSync(unfinished, join(this.#folder, nameOf(key)));
    }
    this.#objects.set(key, kept);
    return kept;
  }

  remove(key: string): void {
    if (this.#folder !== null) rmSync(join(this.#folder, nameOf(key)), { force: true });
    this.#objects.delete(key);
  }

  /** In the order of keys. */
  list(prefix: string, after: string, most: number): { found: [string, Kept][]; isCut: boolean } {
    const all = [...this.#objects]
      .filter(([key]) => key.startsWith(prefix) && key > after)
      .sort(([a], [b]) => (a < b ? -1 : 1));
    return { found: all.slice(0, most), isCut: all.length > most };
  }

  /** What keys go on with after a prefix, up to the next stroke. */
  folders(prefix: string): string[] {
    const cut = [...this.#objects.keys()]
      .filter((key) => key.startsWith(prefix) && key.indexOf('/', prefix.length) > 0)
      .map((key) => key.slice(0, key.indexOf('/', prefix.length) + 1));
    return [...new Set(cut)].sort();
  }

  begin(key: string, at: number): string {
    const id = randomUUID();
    this.#uploads.set(id, { key, at, parts: new Map() });
    return id;
  }

  upload(id: string): Upload | undefined {
    return this.#uploads.get(id);
  }

  uploads(prefix: string): [string, Upload][] {
    return [...this.#uploads].filter(([, { key }]) => key.startsWith(prefix));
  }

  putPart(upload: Upload, number: number, bytes: Buffer, at: number): Kept {
    const kept = { bytes, etag: etagOf(bytes), at };
    upload.parts.set(number, kept);
    return kept;
  }

  /** @returns null where a part is not there */
  complete(id: string, numbers: readonly number[], at: number): Kept | null {
    const upload = this.#uploads.get(id);
    const parts = numbers.map((number) => upload?.parts.get(number));
    if (!upload || parts.some((part) => !part)) return null;
    const whole = parts.flatMap((part) => (part ? [part] : []));
    const digests = Buffer.concat(whole.map(({ bytes }) => md5(bytes)));
    const etag = `"${md5(digests).toString('hex')}-${whole.length}"`;
    this.#uploads.delete(id);
    return this.put(upload.key, Buffer.concat(whole.map(({ bytes }) => bytes)), at, etag);
  }

  abort(id: string): void {
    this.#uploads.delete(id);
  }
}
