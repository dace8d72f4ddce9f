import { dirname, join } from 'node:path';
import { syncFolder } from '../disk/durable.js';
import { mkdirInside, rm, rmdir } from '../disk/medium.js';
import { PENDING } from '../format/layout.js';
import { FolderFiles } from './folder-files.js';
import type { Contents, Incoming, Source, Stored, StoredFile, Work } from './store.js';
import { writeWhole } from './write-whole.js';

/** Below an archive's work: files of another copy, under their names in the bag. */
const FOLDER = 'incoming';
export const incomingDraft = (name: string) => `${PENDING}/${FOLDER}/${name}`;
export const INCOMING_WORK = FOLDER;

/** What comes into an archive in a folder from another copy of it lies on the same medium, and comes in by being renamed. */
export class FolderIncoming implements Incoming {
  readonly #work: Work;
  readonly #files: FolderFiles;
  /** Folders that a power cut leaves. */
  readonly #durable = new Set<string>();

  constructor(work: Work) {
    this.#work = work;
    this.#files = new FolderFiles(join(work.root, PENDING, FOLDER));
  }

  open(name: string, from?: Source): Promise<StoredFile> {
    return this.#files.open(name, from);
  }

  list(): Promise<Stored[]> {
    return this.#files.list('');
  }

  async put(name: string, contents: Contents): Promise<void> {
    const path = join(this.#files.root, name);
    await this.#makeFolder(dirname(path));
    // One that was cut off in the middle.
    await rm(path, { force: true });
    await writeWhole(path, contents);
  }

  async remove(name: string): Promise<void> {
    await rm(join(this.#files.root, name), { force: true });
  }

  async discard(): Promise<void> {
    const { root, isNew } = this.#work;
    await rm(this.#files.root, { recursive: true, force: true });
    // Each stays where other work is in progress.
    for (const folder of [join(root, PENDING), ...(isNew ? [root] : [])]) {
      await rmdir(folder).catch(() => undefined);
    }
    await syncFolder(isNew ? dirname(root) : root);
    this.#durable.clear();
  }

  /** Also those between it and the archive, each durable in the one above. */
  async #makeFolder(folder: string): Promise<void> {
    if (this.#durable.has(folder)) return;
    const { root, isNew } = this.#work;
    await mkdirInside(isNew ? dirname(root) : root, folder, { mode: 0o700 });
    for (let above = dirname(folder); above.startsWith(root); above = dirname(above)) {
      await syncFolder(above);
    }
    this.#durable.add(folder);
  }
}
