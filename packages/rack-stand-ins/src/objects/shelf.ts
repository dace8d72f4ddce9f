import { createHash, randomUUID } from 'node:crypto';

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

/** What an object storage holds, in memory: it is a stand-in, and is empty again when it ends. */
export class Shelf {
  readonly #objects = new Map<string, Kept>();
  readonly #uploads = new Map<string, Upload>();

  get(key: string): Kept | undefined {
    return this.#objects.get(key);
  }

  put(key: string, bytes: Buffer, at: number, etag = etagOf(bytes)): Kept {
    const kept = { bytes, etag, at };
    this.#objects.set(key, kept);
    return kept;
  }

  remove(key: string): void {
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
