import { randomBytes, randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { access, link, lstat, open, readdir, statfs } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { renameDurably, syncFolder } from '../disk/durable.js';
import { codeOf, noLinks } from '../disk/errors.js';
import { mkdirInside, rename, rm, rmdir, tell } from '../disk/medium.js';
import { MANIFEST, manifestDigest } from '../format/bag.js';
import { PENDING } from '../format/layout.js';
import { FolderFiles } from './folder-files.js';
import { FolderIncoming, INCOMING_WORK, incomingDraft } from './folder-incoming.js';
import { lockArchive } from './folder-lock.js';
import { markedRack } from './identity.js';
import { completeSwap, decideSwap } from './folder-swap.js';
import { DRAFT, stagingName, tidyPending } from './folder-work.js';
import type {
  Contents,
  Incoming,
  Lease,
  LeaseKind,
  NextState,
  PutMode,
  Room,
  Source,
  Store,
  Stored,
  StoredFile,
  Work,
} from './store.js';
import { writeWhole } from './write-whole.js';

export const folderAddressSchema = z.object({
  kind: z.literal('folder'),
  /** Absolute path of the rack's folder on this computer. */
  path: z.string().min(1),
});

/**
 * A rack that is a folder: of a fixed disk, of a drive that comes and goes, of a share. What comes into an archive is made
 * on the same medium, below its `pending/`, and comes in by being renamed: nothing is written twice. A new archive grows
 * in a folder beside its place that nothing lists, and has its name when it is whole.
 */
export class FolderStore implements Store {
  readonly address: z.infer<typeof folderAddressSchema>;
  readonly mounted: string;
  readonly #root: string;
  readonly #files: FolderFiles;
  /** Which rack it said to be when it was last asked. */
  #rack: string | null = null;

  constructor(root: string) {
    this.#root = root;
    this.mounted = root;
    this.#files = new FolderFiles(root);
    this.address = { kind: 'folder', path: root };
  }

  async identity(): Promise<string | null> {
    this.#rack = await markedRack(this.#files);
    return this.#rack;
  }

  /** Whether the rack that was found here is here still: a drive leaves at any moment, and its folder stays. */
  async #isHere(): Promise<boolean> {
    return this.#rack === null || (await markedRack(this.#files)) === this.#rack;
  }

  async room(): Promise<Room> {
    const { blocks, bavail, bsize } = await statfs(this.#root);
    return { capacity: blocks * bsize, free: bavail * bsize };
  }

  list(prefix: string): Promise<Stored[]> {
    return this.#files.list(prefix);
  }

  async folders(): Promise<string[]> {
    const entries = await readdir(this.#root, { withFileTypes: true });
    return entries
      .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
      .map(({ name }) => name)
      .sort();
  }

  open(name: string, from?: Source): Promise<StoredFile> {
    return this.#files.open(name, from);
  }

  async put(name: string, contents: Contents, how: PutMode): Promise<void> {
    const target = join(this.#root, name);
    const [archive = '', ...inside] = name.split('/');
    const root = join(this.#root, archive);
    const isInside = inside.length > 0;
    // Below an archive's `pending/`, where whoever has it next clears away what was cut off.
    const draft = isInside
      ? join(root, PENDING, `${DRAFT}${randomUUID()}`)
      : join(this.#root, `.${name}-${randomUUID()}`);
    try {
      if (isInside) {
        await mkdirInside(root, dirname(draft), { mode: 0o700 });
        await mkdirInside(root, dirname(target), { mode: 0o700 });
      }
      await writeWhole(draft, contents);
      if (how === 'over') await rename(draft, target);
      else await renameIfFree(draft, target);
      await syncFolder(dirname(target));
    } finally {
      await rm(draft, { force: true });
      // Stays where other work is in progress.
      if (isInside) await rmdir(join(root, PENDING)).catch(() => undefined);
    }
  }

  async remove(name: string): Promise<void> {
    const path = join(this.#root, name);
    await rm(path, { force: true });
    await syncFolder(dirname(path)).catch((error: unknown) => {
      if (codeOf(error) !== 'ENOENT') throw error;
    });
  }

  async removeArchive(archive: string, first: readonly string[] = []): Promise<void> {
    const path = join(this.#root, archive);
    for (const name of first) {
      await overwrite(join(path, name));
      await this.remove(`${archive}/${name}`);
    }
    if (await isThere(path)) {
      await renameDurably(path, join(this.#root, `${removedPrefix(archive)}${randomUUID()}`));
    }
    const prefix = removedPrefix(archive);
    const left = (await readdir(this.#root)).filter(
      (name) => name.startsWith(prefix) && UUID.test(name.slice(prefix.length)),
    );
    for (const name of [...left, stagingName(archive)]) {
      await rm(join(this.#root, name), { recursive: true, force: true });
    }
    await syncFolder(this.#root);
  }

  async work(archive: string): Promise<Work> {
    const isNew = !(await isThere(join(this.#root, archive)));
    return { root: join(this.#root, isNew ? stagingName(archive) : archive), isNew };
  }

  async incoming(archive: string): Promise<Incoming> {
    return new FolderIncoming(await this.work(archive));
  }

  async swap(archive: string, next: NextState, beforeDeciding: () => Promise<void>): Promise<void> {
    const { root, isNew } = await this.work(archive);
    const from = await manifestDigest(new FolderFiles(root));
    if (from !== next.from) throw new Failure('archive-changed');
    await decideSwap(root, withIncoming(next), beforeDeciding);
    if (isNew) await renameDurably(root, join(this.#root, archive));
  }

  lease(archive: string, kind: LeaseKind): Promise<Lease> {
    return lockArchive(join(this.#root, archive), kind, {
      first: () => this.#complete(archive, tidyPending),
      beside: () => this.#complete(archive, async () => undefined),
      isHere: () => this.#isHere(),
    });
  }

  /** Carries out what was decided before, and clears away what cannot go on. */
  async #complete(archive: string, tidy: (folder: string) => Promise<void>): Promise<void> {
    const { root, isNew } = await this.work(archive);
    await completeSwap(root);
    if (!isNew) await tidy(root);
    // Whole already, and only the name is missing.
    else if (await isThere(join(root, MANIFEST))) {
      await renameDurably(root, join(this.#root, archive));
    }
  }
}

/** Other bytes in the very place of a file's own, as far as the medium keeps places. One that is not there is left so. */
async function overwrite(path: string): Promise<void> {
  const { size } = await lstat(path).catch(() => ({ size: 0 }));
  if (size === 0) return;
  const file = await open(path, constants.O_WRONLY | constants.O_NOFOLLOW);
  try {
    await file.write(randomBytes(size), 0, size, 0);
    await file.sync();
    tell(() => ({ do: 'sync', path }));
  } finally {
    await file.close();
  }
}

/** An archive that is being removed has a name that nothing lists. */
const removedPrefix = (archive: string) => `.removed-${archive}-`;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** What comes from another copy lies below the archive's own work, and is renamed like all that does. */
const withIncoming = ({ incoming = [], ...next }: NextState): NextState => ({
  ...next,
  add: [...next.add, ...incoming.map((name) => ({ from: incomingDraft(name), to: name }))],
  work: incoming.length > 0 ? [...next.work, INCOMING_WORK] : next.work,
});

const isThere = (path: string) =>
  access(path).then(
    () => true,
    () => false,
  );

/** @throws `EEXIST` */
async function renameIfFree(from: string, to: string): Promise<void> {
  try {
    await link(from, to);
    tell(() => ({ do: 'link', path: from, to }));
  } catch (error) {
    if (!noLinks.includes(codeOf(error))) throw error;
    if (await isThere(to)) {
      throw Object.assign(new Error(`${basename(to)} is there`), { code: 'EEXIST' });
    }
    await rename(from, to);
  }
}
