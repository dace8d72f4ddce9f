import { mkdir, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { MANIFEST, sha512Of } from '../format/bag.js';
import { PENDING } from '../format/layout.js';
import { markedRack } from './identity.js';
import { Leases } from './leases.js';
import { readWhole } from './read.js';
import type {
  Contents,
  Incoming,
  Lease,
  LeaseKind,
  NextState,
  PutMode,
  Room,
  Store,
  Stored,
  StoredFile,
  Work,
} from './store.js';

/**
 * A rack in this process's memory, for tests. It answers later, as one does that is not at hand, and has nothing to rename:
 * what it takes for granted is what every kind of rack must give.
 */
export class MemoryStore implements Store {
  readonly address = null;
  readonly mounted = null;
  readonly #files = new Map<string, Buffer>();
  readonly #leases = new Leases();
  readonly #incoming = new Map<string, MemoryStore>();
  readonly #workRoot: string;
  readonly #capacity: number;

  /** @param workRoot a folder for what is being made */
  constructor(workRoot: string, capacity = 2 ** 30) {
    this.#workRoot = workRoot;
    this.#capacity = capacity;
  }

  identity(): Promise<string | null> {
    return markedRack(this);
  }

  async room(): Promise<Room> {
    const used = [...this.#files.values()].reduce((sum, { length }) => sum + length, 0);
    return { capacity: this.#capacity, free: this.#capacity - used };
  }

  async list(prefix: string): Promise<Stored[]> {
    return [...this.#files]
      .filter(([name]) => name.startsWith(prefix))
      .map(([name, { length }]) => ({ name, bytes: length }))
      .sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  async open(name: string): Promise<StoredFile> {
    const bytes = this.#files.get(name);
    if (!bytes) throw notThere();
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
    const whole = await gather(contents);
    if (how === 'if-absent' && this.#files.has(name)) {
      throw Object.assign(new Error('there is one'), { code: 'EEXIST' });
    }
    const archive = name.slice(0, name.indexOf('/') + 1);
    if (archive !== '' && (await this.list(archive)).length === 0) throw notThere();
    await this.#take(name, whole);
  }

  async remove(name: string): Promise<void> {
    this.#files.delete(name);
  }

  async removeArchive(archive: string): Promise<void> {
    // Nothing of what is gone from memory is left anywhere.
    for (const name of [...this.#files.keys()].filter((n) => n.startsWith(`${archive}/`))) {
      this.#files.delete(name);
    }
    this.#incoming.delete(archive);
    await rm(join(this.#workRoot, archive), { recursive: true, force: true });
  }

  async work(archive: string): Promise<Work> {
    const root = join(this.#workRoot, archive);
    await mkdir(root, { recursive: true });
    return { root, isNew: !this.#files.has(`${archive}/${MANIFEST}`) };
  }

  async incoming(archive: string): Promise<Incoming> {
    const files = this.#incoming.get(archive) ?? new MemoryStore(this.#workRoot, this.#capacity);
    this.#incoming.set(archive, files);
    return {
      open: (name) => files.open(name),
      list: () => files.list(''),
      put: async (name, contents) => files.#take(name, await gather(contents)),
      remove: (name) => files.remove(name),
      discard: async () => void this.#incoming.delete(archive),
    };
  }

  async swap(
    archive: string,
    { from, add, incoming = [], remove, tags, work }: NextState,
    beforeDeciding: () => Promise<void>,
  ): Promise<void> {
    const { root } = await this.work(archive);
    const manifest = this.#files.get(`${archive}/${MANIFEST}`);
    if ((manifest ? sha512Of(manifest) : null) !== from) throw new Failure('archive-changed');
    for (const file of add) {
      await this.#take(`${archive}/${file.to}`, await readFile(join(root, file.from)));
    }
    for (const name of incoming) {
      const files = await this.incoming(archive);
      await this.#take(`${archive}/${name}`, await readWhole(files, name, Infinity));
    }
    await beforeDeciding();
    if (incoming.length > 0) this.#incoming.delete(archive);
    for (const [name, text] of tags) await this.#take(`${archive}/${name}`, Buffer.from(text));
    for (const name of remove) this.#files.delete(`${archive}/${name}`);
    for (const name of work) await rm(join(root, PENDING, name), { recursive: true, force: true });
  }

  lease(archive: string, kind: LeaseKind): Promise<Lease> {
    return this.#leases.lease(archive, kind, async () => ({ release: async () => undefined }));
  }

  async #take(name: string, bytes: Buffer): Promise<void> {
    const { free } = await this.room();
    if (bytes.length - (this.#files.get(name)?.length ?? 0) > free) {
      throw Object.assign(new Error('full'), { code: 'ENOSPC' });
    }
    this.#files.set(name, bytes);
  }
}

const notThere = () => Object.assign(new Error('not there'), { code: 'ENOENT' });

async function gather(contents: Contents): Promise<Buffer> {
  if (typeof contents === 'string' || contents instanceof Uint8Array) return Buffer.from(contents);
  const pieces: Buffer[] = [];
  for await (const piece of contents) pieces.push(Buffer.from(piece));
  return Buffer.concat(pieces);
}
