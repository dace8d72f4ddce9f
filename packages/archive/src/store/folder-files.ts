import { closeSync, fstatSync, readSync } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { openPlain } from '../disk/hostile.js';
import { openOnMedium } from '../disk/medium-file.js';
import type { Files, Source, Stored, StoredFile } from './store.js';

/**
 * Files below a folder of this computer. They are read at once and in the thread that asks: this is what worker threads do
 * all day, and pieces of at most a mebibyte stay in a core's fast memory all the way.
 */
export class FolderFiles implements Files {
  readonly root: string;

  constructor(root: string) {
    this.root = root;
  }

  async open(name: string, from: Source = 'anywhere'): Promise<StoredFile> {
    const path = join(this.root, name);
    return from === 'medium' ? openOnMedium(path) : new FolderFile(openPlain(path));
  }

  /** All below a prefix, as it is on the medium: links and the like are named and have no length. */
  async list(prefix: string): Promise<Stored[]> {
    const folder = join(this.root, prefix);
    const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(
      (error: unknown) => {
        if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return [];
        throw error;
      },
    );
    const found = await Promise.all(
      entries
        .filter((entry) => !entry.isDirectory())
        .map(async (entry) => {
          const path = join(entry.parentPath, entry.name);
          const bytes = entry.isFile() ? (await lstat(path)).size : null;
          return { name: path.slice(join(this.root, '/').length), bytes };
        }),
    );
    return found.sort((a, b) => (a.name < b.name ? -1 : 1));
  }
}

class FolderFile implements StoredFile {
  readonly size: number;
  readonly #fd: number;

  constructor(fd: number) {
    this.#fd = fd;
    this.size = fstatSync(fd).size;
  }

  read(into: Uint8Array, from: number): number {
    return readSync(this.#fd, into, 0, into.length, from);
  }

  close(): void {
    closeSync(this.#fd);
  }
}
