import { createReadStream } from 'node:fs';
import { mkdir, rm, rmdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';
import { codeOf } from '../../disk/errors.js';
import {
  BAG_INFO,
  BAGIT,
  MANIFEST,
  manifestDigest,
  TAG_MANIFEST,
  TAG_MAX_BYTES,
} from '../../format/bag.js';
import { isPayloadName, PENDING } from '../../format/layout.js';
import { jsonOrNull } from '../../tools/json.js';
import { markedRack } from '../identity.js';
import { readWhole } from '../read.js';
import type {
  Address,
  Contents,
  Files,
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
} from '../store.js';
import { atOnce } from './at-once.js';
import { codedError, type Medium } from './medium.js';
import { reached } from './reached.js';
import { lockRemote } from './remote-lock.js';

/** In this order: the manifest decides which payload the bag has. */
const tagNames = [MANIFEST, TAG_MANIFEST, BAG_INFO, BAGIT] as const;
/** What was decided, and is carried out by whoever has the next lease. */
const DECISION = 'decision.json';
const payloadNameSchema = z.string().refine(isPayloadName);
const decisionSchema = z.object({
  /** SHA-512 of the manifest before; null where there was none. */
  from: z.string().nullable(),
  add: z.array(payloadNameSchema),
  remove: z.array(payloadNameSchema),
  tags: z.array(z.tuple([z.enum(tagNames), z.string()])),
});

export interface RemoteOptions {
  /** What another thread opens it by; null where only this object knows it. */
  address: Address | null;
  /** Folder of this computer in which is made what will come onto the rack. */
  workRoot: string;
  /** Names it among all that this process has open, and names its lock: nobody may guess it who may not open it. */
  key: string;
}

/**
 * A rack that is reached over a network, by whole files alone. What comes into an archive lies in a folder beside it until
 * it is decided: one file then says what comes, what goes and what the tag files are; it is never put over another. From
 * that moment the change is made, and whoever has the archive next carries it out if this process does not.
 */
export class RemoteStore implements Store {
  readonly address: Address | null;
  readonly mounted = null;
  readonly #medium: Medium;
  readonly #workRoot: string;
  readonly #key: string;

  constructor(medium: Medium, { address, workRoot, key }: RemoteOptions) {
    this.#medium = reached(medium);
    this.address = address;
    this.#workRoot = workRoot;
    this.#key = key;
  }

  identity(): Promise<string | null> {
    return markedRack(this);
  }

  room(): Promise<Room> {
    return this.#medium.room();
  }

  list(prefix: string): Promise<Stored[]> {
    return this.#medium.list(prefix);
  }

  async folders(): Promise<string[]> {
    const all = await this.#medium.folders();
    return all.filter((name) => !name.startsWith('.')).sort();
  }

  /** What such a rack sends may come out of its memory: it offers no way past that. */
  open(name: string): Promise<StoredFile> {
    return this.#medium.open(name);
  }

  async put(name: string, contents: Contents, how: PutMode): Promise<void> {
    const [archive = '', ...inside] = name.split('/');
    if (inside.length > 0 && !(await this.#isThere(archive))) throw codedError('ENOENT');
    await this.#medium.put(name, contents, how);
  }

  remove(name: string): Promise<void> {
    return this.#medium.remove(name);
  }

  async removeArchive(archive: string, first: readonly string[] = []): Promise<void> {
    // What was decided is not carried out any more.
    await this.#medium.remove(`${coming(archive)}${DECISION}`);
    for (const name of first) {
      await this.#medium.overwrite(`${archive}/${name}`);
      await this.#medium.remove(`${archive}/${name}`);
    }
    // Without it nobody finds an archive there.
    await this.#medium.remove(`${archive}/${MANIFEST}`);
    await this.#medium.removeAll(`${archive}/`);
    await this.#medium.removeAll(coming(archive));
    await rm(join(this.#workRoot, archive), { recursive: true, force: true });
  }

  async work(archive: string): Promise<Work> {
    const root = join(this.#workRoot, archive);
    const isNew = !(await this.#isThere(archive));
    // Of a new one nothing is there until somebody begins it.
    await mkdir(isNew ? this.#workRoot : root, { recursive: true, mode: 0o700 });
    return { root, isNew };
  }

  async incoming(archive: string): Promise<Incoming> {
    const medium = this.#medium;
    const prefix = coming(archive);
    return {
      open: (name) => medium.open(prefix + name),
      async list() {
        const found = await medium.list(prefix);
        return found
          .map(({ name, bytes }) => ({ name: name.slice(prefix.length), bytes }))
          .filter(({ name }) => name !== DECISION);
      },
      put: (name, contents) => medium.put(prefix + name, contents, 'over'),
      remove: (name) => medium.remove(prefix + name),
      discard: () => medium.removeAll(prefix),
    };
  }

  async swap(
    archive: string,
    { from, add, incoming = [], remove, tags, work }: NextState,
    beforeDeciding: () => Promise<void>,
  ): Promise<void> {
    const { root } = await this.work(archive);
    if ((await manifestDigest(this.#filesOf(archive))) !== from) {
      throw new Failure('archive-changed');
    }
    await atOnce(add, (file) =>
      this.#medium.put(
        `${coming(archive)}${file.to}`,
        createReadStream(join(root, file.from), { highWaterMark: 2 ** 20 }),
        'over',
      ),
    );
    // What nobody could carry out is never decided.
    const decision = decisionSchema.parse({
      ...{ from, remove, add: [...add.map(({ to }) => to), ...incoming] },
      tags: [...tags],
    });
    await beforeDeciding();
    await this.#medium.put(`${coming(archive)}${DECISION}`, JSON.stringify(decision), 'if-absent');
    const lost = await this.#complete(archive);
    if (lost.length > 0) throw new Failure('not-read-back');
    for (const name of work) await rm(join(root, PENDING, name), { recursive: true, force: true });
    // Each stays where other work is in progress.
    for (const folder of [join(root, PENDING), root]) await rmdir(folder).catch(() => undefined);
  }

  lease(archive: string, kind: LeaseKind): Promise<Lease> {
    return lockRemote({ medium: this.#medium, key: this.#key, archive }, kind, async () => {
      // What is lost, whoever checks the archive finds.
      await this.#complete(archive);
      await this.#medium.tidy().catch(() => undefined);
    });
  }

  #filesOf(archive: string): Files {
    return { open: (name) => this.#medium.open(`${archive}/${name}`) };
  }

  #isThere(archive: string): Promise<boolean> {
    return this.#has(`${archive}/${MANIFEST}`);
  }

  async #has(name: string): Promise<boolean> {
    try {
      (await this.#medium.open(name)).close();
      return true;
    } catch (error) {
      if (codeOf(error) === 'ENOENT') return false;
      throw error;
    }
  }

  /**
   * Carries out what was decided. Can be cut off and repeated at any point.
   * @returns names of what was to come and lies nowhere any more; what it was to take the place of stays then
   */
  async #complete(archive: string): Promise<string[]> {
    const place = `${coming(archive)}${DECISION}`;
    const text = await this.#textOf(place);
    if (text === null) return [];
    const parsed = decisionSchema.safeParse(jsonOrNull(text));
    if (!parsed.success) throw new Failure('archive-damaged', {}, { cause: parsed.error });
    const { add, remove, tags } = parsed.data;
    const lost: string[] = [];
    await atOnce(add, async (name) => {
      if (!(await this.#bring(coming(archive) + name, `${archive}/${name}`))) lost.push(name);
    });
    for (const [name, contents] of tags.sort(inTheirOrder)) {
      await this.#medium.put(`${archive}/${name}`, contents, 'over');
    }
    if (lost.length === 0) {
      await atOnce(remove, (name) => this.#medium.remove(`${archive}/${name}`));
    }
    await this.#medium.remove(place);
    return lost;
  }

  /** @returns whether it is where it belongs, to which it may have been moved before an interruption */
  async #bring(from: string, to: string): Promise<boolean> {
    try {
      await this.#medium.move(from, to);
      return true;
    } catch (error) {
      if (codeOf(error) !== 'ENOENT') throw error;
      if (await this.#has(to)) return true;
      // Not moved, whatever the reason: nobody may go on as if it had been.
      if (await this.#has(from)) throw codedError('EIO', error);
      return false;
    }
  }

  async #textOf(name: string): Promise<string | null> {
    try {
      return (await readWhole(this.#medium, name, TAG_MAX_BYTES)).toString('utf8');
    } catch (error) {
      if (codeOf(error) === 'ENOENT') return null;
      throw error;
    }
  }
}

type Tag = z.infer<typeof decisionSchema>['tags'][number];
const inTheirOrder = ([one]: Tag, [other]: Tag) => tagNames.indexOf(one) - tagNames.indexOf(other);

/** Where files lie on their way into an archive, by their names in it. */
const coming = (archive: string) => `.coming-${archive}/`;
