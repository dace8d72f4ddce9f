import { randomUUID } from 'node:crypto';
import { basename, dirname, resolve } from 'node:path';
import AsyncLock from 'async-lock';
import { FolderStore } from './folder-store.js';
import { readWhole } from './read.js';
import type {
  Contents,
  Files,
  Incoming,
  Lease,
  LeaseKind,
  NextState,
  PutMode,
  Source,
  Store,
  Stored,
  StoredFile,
  Work,
} from './store.js';

/** One copy of an archive: its files on one rack, by their names in the bag. */
export class ArchiveFiles implements Files {
  readonly store: Store;
  /** Of the archive on the rack. */
  readonly name: string;

  constructor(store: Store, name: string) {
    this.store = store;
    this.name = name;
  }

  open(name: string, from?: Source): Promise<StoredFile> {
    return this.store.open(`${this.name}/${name}`, from);
  }

  /** A whole small file. @param most bytes; a longer one is refused with `EFBIG` before it is read */
  read(name: string, most: number): Promise<Buffer> {
    return readWhole(this, name, most);
  }

  async list(prefix: string): Promise<Stored[]> {
    const found = await this.store.list(`${this.name}/${prefix}`);
    return found.map(({ name, bytes }) => ({ name: name.slice(this.name.length + 1), bytes }));
  }

  put(name: string, contents: Contents, how: PutMode): Promise<void> {
    return this.steady(() => this.store.put(`${this.name}/${name}`, contents, how));
  }

  remove(name: string): Promise<void> {
    return this.store.remove(`${this.name}/${name}`);
  }

  work(): Promise<Work> {
    return this.store.work(this.name);
  }

  incoming(): Promise<Incoming> {
    return this.store.incoming(this.name);
  }

  /**
   * Does something while the archive does not go from one state to the next: what is read then belongs together. Short:
   * who changes it in this process waits. Other processes have no lease of it meanwhile.
   */
  steady<T>(work: () => Promise<T>): Promise<T> {
    return turns.acquire(`${addressOf(this.store)} ${this.name}`, work);
  }

  async swap(next: NextState, beforeDeciding: () => Promise<void>): Promise<void> {
    let carriedOut: () => void = () => undefined;
    try {
      await this.store.swap(this.name, next, async () => {
        await beforeDeciding();
        await new Promise<void>((decide) => {
          void this.steady(() => {
            decide();
            return new Promise<void>((done) => (carriedOut = done));
          });
        });
      });
    } finally {
      carriedOut();
    }
  }

  /** Waits for nobody who has one; what was decided before is carried out first. */
  lease(kind: LeaseKind): Promise<Lease> {
    return this.steady(() => this.store.lease(this.name, kind));
  }
}

/** Whose turn it is with which archive, of all in this process. However long the line is, nobody is sent away. */
const turns = new AsyncLock({ maxPending: Infinity });
/** Of stores that only this process knows. */
const own = new WeakMap<Store, string>();

function addressOf(store: Store): string {
  if (store.address) return JSON.stringify(store.address);
  const known = own.get(store) ?? randomUUID();
  own.set(store, known);
  return known;
}

/** An archive's folder, wherever it lies on this computer. */
export function archiveIn(folder: string): ArchiveFiles {
  const path = resolve(folder);
  return new ArchiveFiles(new FolderStore(dirname(path)), basename(path));
}
