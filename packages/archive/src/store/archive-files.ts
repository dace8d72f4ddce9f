import { basename, dirname, resolve } from 'node:path';
import { FolderStore } from './folder-store.js';
import { readWhole } from './read.js';
import type {
  Contents,
  Files,
  Lease,
  LeaseKind,
  NextState,
  PutMode,
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

  open(name: string): Promise<StoredFile> {
    return this.store.open(`${this.name}/${name}`);
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
    return this.store.put(`${this.name}/${name}`, contents, how);
  }

  remove(name: string): Promise<void> {
    return this.store.remove(`${this.name}/${name}`);
  }

  work(): Promise<Work> {
    return this.store.work(this.name);
  }

  swap(next: NextState, beforeDeciding: () => Promise<void>): Promise<void> {
    return this.store.swap(this.name, next, beforeDeciding);
  }

  lease(kind: LeaseKind): Promise<Lease> {
    return this.store.lease(this.name, kind);
  }
}

/** An archive's folder, wherever it lies on this computer. */
export function archiveIn(folder: string): ArchiveFiles {
  const path = resolve(folder);
  return new ArchiveFiles(new FolderStore(dirname(path)), basename(path));
}
