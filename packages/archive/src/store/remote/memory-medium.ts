import type { Contents, PutMode, Room, Stored, StoredFile } from '../store.js';
import { codedError, type Medium } from './medium.js';

/** Files in this process's memory, for tests. They come later, as those do that are not at hand. */
export class MemoryMedium implements Medium {
  readonly #files = new Map<string, { bytes: Buffer; at: number }>();
  readonly #capacity: number;

  constructor(capacity = 2 ** 30) {
    this.#capacity = capacity;
  }

  /** Another with what this one holds now. */
  copy(): MemoryMedium {
    const other = new MemoryMedium(this.#capacity);
    for (const [name, file] of this.#files) other.#files.set(name, file);
    return other;
  }

  async room(): Promise<Room> {
    const used = [...this.#files.values()].reduce((sum, { bytes }) => sum + bytes.length, 0);
    return { capacity: this.#capacity, free: this.#capacity - used };
  }

  async list(prefix: string): Promise<Stored[]> {
    return [...this.#files]
      .filter(([name]) => name.startsWith(prefix))
      .map(([name, { bytes }]) => ({ name, bytes: bytes.length }))
      .sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  async folders(): Promise<string[]> {
    const inside = [...this.#files.keys()].filter((name) => name.includes('/'));
    return [...new Set(inside.map((name) => name.slice(0, name.indexOf('/'))))];
  }

  async open(name: string): Promise<StoredFile> {
    const bytes = this.#bytesOf(name);
    return {
      size: bytes.length,
      async read(into, from) {
        await new Promise((later) => setImmediate(later));
        return bytes.copy(into, 0, from, Math.min(bytes.length, from + into.length));
      },
      close: () => undefined,
    };
  }

  async put(name: string, contents: Contents, how: PutMode): Promise<void> {
    const bytes = await gathered(contents);
    if (how === 'if-absent' && this.#files.has(name)) throw codedError('EEXIST');
    const { free } = await this.room();
    const before = this.#files.get(name)?.bytes.length ?? 0;
    if (bytes.length - before > free) throw codedError('ENOSPC');
    this.#files.set(name, { bytes, at: Date.now() });
  }

  async move(from: string, to: string): Promise<void> {
    const bytes = this.#bytesOf(from);
    this.#files.delete(from);
    this.#files.set(to, { bytes, at: Date.now() });
  }

  async remove(name: string): Promise<void> {
    this.#files.delete(name);
  }

  async removeAll(prefix: string): Promise<void> {
    for (const { name } of await this.list(prefix)) this.#files.delete(name);
  }

  /** Nothing of what is gone from memory is left anywhere. */
  async overwrite(): Promise<void> {}

  async writtenAt(name: string): Promise<number | null> {
    return this.#files.get(name)?.at ?? null;
  }

  async tidy(): Promise<void> {}

  #bytesOf(name: string): Buffer {
    const file = this.#files.get(name);
    if (!file) throw codedError('ENOENT');
    return file.bytes;
  }
}

async function gathered(contents: Contents): Promise<Buffer> {
  if (typeof contents === 'string' || contents instanceof Uint8Array) return Buffer.from(contents);
  const pieces: Buffer[] = [];
  for await (const piece of contents) pieces.push(Buffer.from(piece));
  return Buffer.concat(pieces);
}
