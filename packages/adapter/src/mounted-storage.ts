import { createHash } from 'node:crypto';
import { lstat, mkdir, readdir, rename, rm, rmdir, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import {
  linkDeviceSchema,
  serialRead,
  type DataClass,
  type DeviceFacts,
  type MountedFolder,
} from '@bright-cellar/core';
import {
  LinkError,
  type Entry,
  type Group,
  type NewEntry,
  type RestoreOffer,
} from '@bright-cellar/device-link';
import { INCOMING, indexFolder, type FolderIndex } from './folder-index.js';
import { syncFolder, syncTree } from './folder-writer.js';
import { Received } from './received.js';
import type { DeviceNews, LinkDevice } from './link-device.js';

/** All of it: one kind of device, whatever device it is the storage of. */
const FAMILY = 'storage';
/** After so much silence what the link had begun is given up. */
const SILENCE_MS = 30_000;

/** Real storage, of a device or recovered from one, that is mounted on this computer: its files are what it holds. */
export class MountedStorage implements LinkDevice {
  readonly id: string;
  readonly serial: string;
  readonly folder: string;
  readonly #storage: MountedFolder;
  readonly #changed: (what: DeviceNews) => void;
  #berth: number | null;
  #index: FolderIndex | null = null;
  #room = { capacity: 0, used: 0 };
  #activity: DeviceFacts['activity'] = 'idle';
  #restore: { id: string; received: Received } | null = null;
  #touchedAt = 0;

  /** @param storage its folder as it really lies there, and a serial that is no other's */
  constructor(
    storage: MountedFolder & { serial: string },
    berth: number,
    changed: (what: DeviceNews) => void,
  ) {
    this.#storage = storage;
    this.#berth = berth;
    this.#changed = changed;
    this.serial = storage.serial;
    this.folder = storage.folder;
    this.id = `storage-${createHash('sha256').update(storage.serial).digest('hex').slice(0, 16)}`;
  }

  get berth(): number | null {
    return this.#berth;
  }

  facts(): DeviceFacts {
    const { kind, name, model, of } = this.#storage;
    const { amounts, revision } = this.#now;
    return {
      id: linkDeviceSchema.parse(this.id),
      berth: this.#berth ?? 1,
      connection: 'cable',
      family: FAMILY,
      familyName: of === 'recovered' ? 'Recovered folder' : 'Mounted storage',
      kind,
      model,
      name,
      serial: this.serial,
      imei: null,
      osName: '',
      osVersion: '',
      ...this.#room,
      content: amounts,
      contentRevision: revision,
      charge: null,
      lock: 'unlocked',
      approval: 'not-asked',
      workshopPort: null,
      openingSteps: [],
      confirmation: 'none',
      wearable: null,
      sealedStores: [],
      osUpdate: null,
      ownerLock: 'off',
      empty: this.#empty,
      settling: [],
      activity: this.#activity,
      screen: 'Its storage is mounted; its screen is its own.',
      capabilities: {
        backup: of === 'recovered' ? 'recovered' : 'storage',
        choose: 'items',
        sensitiveOnlyEncrypted: false,
        confirmsBackup: false,
        // What nobody can tell from another is not written.
        restore: of === 'recovered' || serialRead(this.serial) === null ? 'none' : 'full',
        erase: false,
        approval: false,
        takes: null,
      },
    };
  }

  /** It is not there any more. */
  leave(): void {
    this.#giveUp();
    this.#berth = null;
    this.#changed('left');
  }

  touched(): Promise<void> {
    this.#touchedAt = performance.now();
    return Promise.resolve();
  }

  async *carry(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    for await (const piece of pieces) {
      this.#touchedAt = performance.now();
      yield piece;
    }
  }

  async lookAgain(): Promise<string> {
    const before = this.#index?.revision;
    this.#index = await indexFolder(this.folder);
    const { blocks, bfree, bsize } = await statfs(this.folder);
    this.#room = { capacity: blocks * bsize, used: (blocks - bfree) * bsize };
    if (before !== undefined && before !== this.#index.revision) this.#changed('changed');
    return this.#index.revision;
  }

  listing(dataClass: DataClass): { revision: string; entries: readonly Entry[] } {
    const { revision, byClass } = this.#now;
    return { revision, entries: byClass.get(dataClass) ?? [] };
  }

  groups(): Group[] {
    return this.#now.groups;
  }

  find(id: string): { folder: string; entry: Entry } {
    const entry = this.#now.byId.get(id);
    if (!entry) throw new LinkError('no-such-entry');
    return { folder: this.folder, entry };
  }

  async beginBackup(): Promise<'running'> {
    this.#mustBeIdle();
    await this.lookAgain();
    this.#begin('backup');
    return 'running';
  }

  endBackup(): void {
    if (this.#activity === 'backup') this.#end();
  }

  async beginRestore(id: string, offer: RestoreOffer): Promise<void> {
    this.#mustBeIdle();
    if (this.facts().capabilities.restore === 'none') throw new LinkError('not-capable');
    if (offer.serial !== this.serial) throw new LinkError('wrong-serial');
    if (offer.family !== FAMILY) throw new LinkError('wrong-family');
    await this.lookAgain();
    if (!this.#empty) throw new LinkError('in-use');
    if (offer.bytes > this.#room.capacity - this.#room.used) throw new LinkError('device-full');
    // What a restore that was cut off had received.
    await rm(this.#incoming, { recursive: true, force: true });
    await mkdir(this.#incoming);
    this.#restore = { id, received: new Received(this.#incoming) };
    this.#begin('restore');
  }

  async receive(id: string, entry: NewEntry, contents: AsyncIterable<Uint8Array>): Promise<number> {
    return this.#running(id)
      .received.take(entry, contents)
      .catch((cause: unknown) => {
        const full = ['ENOSPC', 'EDQUOT', 'EFBIG'].includes(String(codeOf(cause)));
        throw full ? new LinkError('device-full', { cause }) : cause;
      });
  }

  drop(id: string, path: string): Promise<void> {
    return this.#running(id).received.drop(path);
  }

  commitRestore(id: string, sent: { items: number; bytes: number }): void {
    this.#running(id).received.mustBe(sent);
    this.#restore = null;
    this.#activity = 'installing';
    this.#changed('changed');
    void this.#install();
  }

  beginAddition(): Promise<never> {
    return Promise.reject(new LinkError('not-capable'));
  }

  add(): Promise<never> {
    return Promise.reject(new LinkError('not-capable'));
  }

  takeAway(): Promise<never> {
    return Promise.reject(new LinkError('not-capable'));
  }

  endAddition(): Promise<never> {
    return Promise.reject(new LinkError('not-capable'));
  }

  update(): Promise<never> {
    return Promise.reject(new LinkError('not-capable'));
  }

  restart(): never {
    throw new LinkError('not-capable');
  }

  erase(): Promise<never> {
    return Promise.reject(new LinkError('not-capable'));
  }

  get #now(): FolderIndex {
    if (!this.#index) throw new LinkError('no-such-device');
    return this.#index;
  }

  /** Folders that a device makes for itself are nobody's contents. */
  get #empty(): boolean {
    return [...this.#now.byId.values()].every(({ kind }) => kind === 'folder');
  }

  get #incoming(): string {
    return join(this.folder, INCOMING);
  }

  #running(id: string) {
    if (this.#restore?.id !== id || this.#activity !== 'restore') {
      throw new LinkError('no-such-entry');
    }
    return this.#restore;
  }

  /** Everything received is on the medium before it takes its place. */
  async #install(): Promise<void> {
    try {
      await syncTree(this.#incoming);
      await moveInto(this.#incoming, this.folder);
      await syncFolder(this.folder);
      await this.lookAgain();
    } catch {
      // Whoever restores reads all of it back and compares: what did not come over is told there.
      await this.lookAgain().catch(() => undefined);
    }
    this.#end();
  }

  #begin(activity: 'backup' | 'restore'): void {
    this.#activity = activity;
    this.#touchedAt = performance.now();
    const watch = setInterval(() => {
      const works = this.#activity === 'backup' || this.#activity === 'restore';
      if (works && performance.now() - this.#touchedAt < SILENCE_MS) return;
      clearInterval(watch);
      if (works) this.#end();
    }, 1000);
    watch.unref();
    this.#changed('changed');
  }

  #end(): void {
    this.#giveUp();
    this.#changed('changed');
  }

  #giveUp(): void {
    this.#activity = 'idle';
    this.#restore = null;
  }

  #mustBeIdle(): void {
    if (this.#activity !== 'idle') throw new LinkError('busy');
  }
}

const codeOf = (error: unknown): unknown => (error as NodeJS.ErrnoException).code;

/** Moves what lies in one folder into another, in which there are at most empty folders. */
async function moveInto(from: string, to: string): Promise<void> {
  for (const name of await readdir(from)) {
    const target = join(to, name);
    // A file that came there meanwhile is nobody's to write over.
    if (await lstat(target).catch(() => null)) await removeEmpty(target);
    await rename(join(from, name), target);
  }
  await rmdir(from);
}

/** @throws where anything but empty folders lies in it: that stays */
async function removeEmpty(folder: string): Promise<void> {
  for (const name of await readdir(folder)) await removeEmpty(join(folder, name));
  await rmdir(folder);
}
