import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type {
  DataClass,
  DeviceFacts,
  SealedStore,
  SettlingId,
  SettlingStep,
} from '@bright-cellar/core';
import {
  compareOsVersions,
  isSettled,
  linkDeviceSchema,
  sensitiveClasses,
  settlingStepSchema,
} from '@bright-cellar/core';
import {
  addEntry,
  entryAt,
  indexFolder,
  install,
  isEmptyFolder,
  Received,
  removeEntry,
  replaceEntry,
  type DeviceNews,
  type FolderIndex,
  type LinkDevice,
} from '@bright-cellar/adapter';
import {
  LinkError,
  type Entry,
  type Group,
  type NewEntry,
  type RestoreOffer,
} from '@bright-cellar/device-link';
import { z } from 'zod';
import { isWithdrawn, versionOf } from './application-store.js';
import { Cable, NO_FAULTS, type Faults } from './cable.js';
import { familyOf } from './families.js';
import { keepOwnLetters } from './own-letters.js';

/** What a stand-in is: fixed when it is made. */
export const definitionSchema = z.object({
  id: z.string(),
  family: z.string(),
  kind: z.enum(['phone', 'tablet', 'handset']),
  model: z.string(),
  name: z.string(),
  serial: z.string(),
  imei: z.string().nullable(),
  osVersion: z.string(),
  capacity: z.int(),
  passcode: z.string().nullable(),
  /** A folder of somebody's own that is shown as the contents. It is read, and filled by a restore, but never deleted. */
  folder: z.string().nullable(),
});
export type Definition = z.infer<typeof definitionSchema>;

/** What changes about it, and outlives a restart of the bench. */
export const conditionSchema = z.object({
  berth: z.int().nullable(),
  unlocked: z.boolean(),
  approved: z.boolean(),
  /** `unnoticed`: it says that it is off, until it was filled or erased; then it asks. */
  ownerLock: z.enum(['on', 'off', 'unnoticed', 'asking']),
  charge: z.int(),
  passcodeSet: z.boolean(),
  /** The folder whose files are its contents; null when it was erased. */
  contents: z.string().nullable(),
  connection: z.enum(['cable', 'network']).default('cable'),
  /** Only where the family has a workshop port. */
  workshopPort: z.enum(['on', 'off']).default('off'),
  wearable: z.string().nullable().default(null),
  /** Chat applications whose number was confirmed. */
  confirmedStores: z.array(z.string()).default([]),
  osUpdate: z.object({ version: z.string(), bytes: z.int() }).nullable().default(null),
  /** The OS it was updated to; null while it has the one it came with. */
  updatedTo: z.string().nullable().default(null),
  /** What it asks of its owner since a backup came onto it. */
  settling: z.array(settlingStepSchema).default([]),
  /** The berth to which it comes back by itself from what it does now. */
  returnsTo: z.int().nullable().default(null),
});
export type StandInCondition = z.infer<typeof conditionSchema>;
/** The same, with what is usual left out. */
export type GivenCondition = z.input<typeof conditionSchema>;

export interface Timing {
  /** How long a device stays away while it installs, and how long it takes to erase, in ms. */
  installMs: number;
  eraseMs: number;
  /** How long it takes to download one application, in ms. */
  downloadMs: number;
  /** Whether whoever holds the devices confirms at once what they ask when work starts. */
  ownerConfirms: boolean;
}

/** After so much silence a device gives up what the link had begun. */
const SILENCE_MS = 30_000;

/** Where what a restore brings gathers. */
const incomingOf = (contents: string): string => `${contents}.incoming`;

/** One simulated device. It knows its own rules and refuses what a real one would refuse. */
export class StandIn implements LinkDevice {
  readonly definition: Definition;
  readonly cable: Cable;
  #condition: StandInCondition;
  #activity: DeviceFacts['activity'] = 'idle';
  #index: FolderIndex | null = null;
  #restore: { id: string; received: Received } | null = null;
  #addition: { id: string; contents: string; bytes: number; wasEmpty: boolean } | null = null;
  #confirmation: DeviceFacts['confirmation'] = 'none';
  /** Whether the running backup is encrypted: some families list less when it is not. */
  #encrypted = true;
  #touchedAt = 0;
  readonly #home: string;
  readonly #timing: Timing;
  readonly #changed: (what: DeviceNews) => void;

  /** @param home a folder of its own for what is restored onto it. */
  constructor(
    definition: Definition,
    condition: StandInCondition,
    home: string,
    timing: Timing,
    changed: (what: DeviceNews) => void,
    faults: Faults = NO_FAULTS,
  ) {
    this.definition = definition;
    this.#condition = condition;
    this.#home = home;
    this.#timing = timing;
    this.#changed = changed;
    this.cable = new Cable(
      faults,
      this.#family.cableShare,
      () => this.unplug(),
      () => this.#heard(),
    );
    this.cable.connection = condition.connection;
    this.cable.onSleep = () => this.lock();
  }

  get id(): string {
    return this.definition.id;
  }

  get serial(): string {
    return this.definition.serial;
  }

  get condition(): StandInCondition {
    return this.#condition;
  }

  get berth(): number | null {
    return this.#condition.berth;
  }

  get readable(): boolean {
    return (
      !this.#locked && this.#portOpen && this.#approved && this.#condition.ownerLock !== 'asking'
    );
  }

  get #portOpen(): boolean {
    return this.#family.openingSteps === null || this.#condition.workshopPort === 'on';
  }

  get #approved(): boolean {
    return this.#condition.approved || !this.#family.capabilities.approval;
  }

  get #osVersion(): string {
    return this.#condition.updatedTo ?? this.definition.osVersion;
  }

  get #family() {
    return familyOf(this.definition.family);
  }

  get #locked(): boolean {
    return this.#condition.passcodeSet && !this.#condition.unlocked;
  }

  get #empty(): boolean {
    return this.#index === null || this.#index.byId.size === 0;
  }

  /** Reads the contents. Call before anything else, and whenever the folder may have changed. */
  async rescan(): Promise<void> {
    const { contents } = this.#condition;
    this.#index = contents && !(await isEmptyFolder(contents)) ? await indexFolder(contents) : null;
  }

  facts(): DeviceFacts {
    const { definition, readable } = this;
    const family = this.#family;
    return {
      id: linkDeviceSchema.parse(definition.id),
      berth: this.#condition.berth ?? 1,
      connection: this.#condition.connection,
      family: definition.family,
      familyName: family.name,
      kind: definition.kind,
      model: definition.model,
      name: this.#empty ? `${family.name} ${definition.model}` : definition.name,
      serial: definition.serial,
      imei: definition.imei,
      osName: family.osName,
      osVersion: this.#osVersion,
      capacity: definition.capacity,
      used: Math.min(definition.capacity, family.osBytes + (this.#index?.bytes ?? 0)),
      content: readable ? (this.#index?.amounts ?? []) : null,
      contentRevision: readable ? (this.#index?.revision ?? 'empty') : null,
      charge: this.#condition.charge,
      lock: !this.#condition.passcodeSet ? 'no-passcode' : this.#locked ? 'locked' : 'unlocked',
      approval: this.#condition.approved
        ? 'approved'
        : this.#locked || !this.#portOpen || !family.capabilities.approval
          ? 'not-asked'
          : 'asking',
      workshopPort: family.openingSteps ? this.#condition.workshopPort : null,
      openingSteps: family.openingSteps ?? [],
      confirmation: this.#confirmation,
      wearable: this.#condition.wearable,
      sealedStores: readable ? this.#sealedStores() : [],
      osUpdate: this.#condition.osUpdate,
      ownerLock: this.#condition.ownerLock === 'unnoticed' ? 'off' : this.#condition.ownerLock,
      empty: this.#empty,
      settling: this.#condition.settling,
      activity: this.#activity,
      screen: this.#screen(),
      capabilities: family.capabilities,
    };
  }

  #sealedStores(): SealedStore[] {
    return Object.entries(this.#family.sealedStores).flatMap(([group, name]) =>
      this.#index?.groups.some((g) => g.class === 'applications' && g.id === group)
        ? [{ group, name, confirmed: this.#condition.confirmedStores.includes(group) }]
        : [],
    );
  }

  #screen(): string {
    const { screens } = this.#family;
    if (this.#activity !== 'idle') return screens[this.#activity];
    if (this.#locked) return screens.locked;
    if (!this.#portOpen) return screens.portOff;
    if (this.#condition.berth !== null && !this.#approved) return screens.approve;
    if (this.#condition.ownerLock === 'asking') return screens.owner;
    if (this.#confirmation === 'asking') return screens.confirm;
    return this.#empty ? screens.welcome : screens.home;
  }

  // What its owner does, on the device or with the cable.

  plug(berth: number, connection: 'cable' | 'network' = 'cable'): void {
    this.cable.connection = connection;
    this.#set({ berth, connection }, 'arrived');
  }

  unplug(): void {
    if (this.#condition.berth === null) return;
    this.#giveUp();
    this.#confirmation = 'none';
    this.#set({ berth: null, unlocked: false }, 'left');
  }

  unlock(passcode: string): void {
    if (this.#condition.passcodeSet && passcode !== this.definition.passcode) {
      throw new LinkError('locked');
    }
    this.#set({ unlocked: true });
  }

  lock(): void {
    this.#set({ unlocked: false });
  }

  approve(passcode: string): void {
    if (this.#locked) throw new LinkError('locked');
    if (this.#condition.passcodeSet && passcode !== this.definition.passcode) {
      throw new LinkError('not-approved');
    }
    this.#set({ approved: true });
  }

  ownerLockOff(): void {
    this.#set({ ownerLock: 'off' });
  }

  /** Some account is still on it, and nobody sees it until the device is begun anew. */
  leaveOwnerLock(): void {
    this.#set({ ownerLock: 'unnoticed' });
  }

  /** What it says of its owner once it begins anew. */
  get #ownerLockNow(): StandInCondition['ownerLock'] {
    return this.#condition.ownerLock === 'unnoticed' ? 'asking' : this.#condition.ownerLock;
  }

  setCharge(charge: number): void {
    this.#set({ charge });
  }

  setWorkshopPort(workshopPort: 'on' | 'off'): void {
    if (this.#family.openingSteps === null) throw new LinkError('not-capable');
    this.#set({ workshopPort });
  }

  setWearable(wearable: string | null): void {
    this.#set({ wearable });
  }

  setOsUpdate(osUpdate: StandInCondition['osUpdate']): void {
    this.#set({ osUpdate });
  }

  /** The number of a chat application is confirmed on the device: its store opens. */
  confirmStore(group: string): void {
    if (!(group in this.#family.sealedStores)) throw new LinkError('not-capable');
    this.#set({ confirmedStores: [...new Set([...this.#condition.confirmedStores, group])] });
  }

  /** The owner agrees on the device that the backup starts. */
  confirmBackup(passcode: string): void {
    if (this.#confirmation !== 'asking') throw new LinkError('not-valid');
    if (this.#condition.passcodeSet && passcode !== this.definition.passcode) {
      throw new LinkError('not-approved');
    }
    this.#confirmation = 'given';
    this.#changed('changed');
  }

  // What the link asks of it.

  index(): FolderIndex {
    this.#mustBeReadable();
    return (
      this.#index ?? {
        byClass: new Map(),
        byId: new Map(),
        groups: [],
        amounts: [],
        bytes: 0,
        revision: 'empty',
      }
    );
  }

  /** Looks through the contents anew. @returns what stands for all of them as they are now */
  async lookAgain(): Promise<string> {
    this.#mustBeReadable();
    const before = this.#index?.revision;
    await this.rescan();
    const { revision } = this.index();
    if (revision !== before) this.#changed('changed');
    return revision;
  }

  listing(dataClass: DataClass): { revision: string; entries: readonly Entry[] } {
    const left =
      this.#activity === 'backup' &&
      !this.#encrypted &&
      this.#family.capabilities.sensitiveOnlyEncrypted &&
      sensitiveClasses.has(dataClass);
    const { revision, byClass } = this.index();
    return { revision, entries: left ? [] : (byClass.get(dataClass) ?? []) };
  }

  groups(): Group[] {
    const sealed = new Set(this.#sealedStores().flatMap((s) => (s.confirmed ? [] : [s.group])));
    return this.index().groups.map((group) => ({
      ...group,
      kind: this.#family.databases ? 'database' : group.kind,
      sealed: group.class === 'applications' && sealed.has(group.id),
      offered: group.class === 'applications' ? !isWithdrawn(group.id) : null,
      version: group.class === 'applications' ? versionOf(group.id) : null,
    }));
  }

  find(id: string): { folder: string; entry: Entry } {
    const entry = this.index().byId.get(id);
    const folder = this.condition.contents;
    if (!entry || !folder) throw new LinkError('no-such-entry');
    if (this.#isSealed(entry)) throw new LinkError('sealed');
    if (this.#isUnreadable(entry.id)) throw new LinkError('read-error');
    return { folder, entry };
  }

  #isSealed({ class: dataClass, group }: Entry): boolean {
    return (
      dataClass === 'applications' &&
      this.#sealedStores().some((store) => store.group === group && !store.confirmed)
    );
  }

  #isUnreadable(id: string): boolean {
    const count = this.cable.faults.unreadableEntries;
    return count > 0 && [...this.index().byId.keys()].slice(-count).includes(id);
  }

  async touched(): Promise<void> {
    this.#heard();
    if (this.cable.faults.latencyMs > 0) await sleep(this.cable.faults.latencyMs);
  }

  carry(pieces: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array> {
    return this.cable.carry(pieces);
  }

  /** A link that went silent in the middle of something will not come back for it. */
  #heard(): void {
    this.#touchedAt = performance.now();
  }

  #watchForSilence(): void {
    this.#heard();
    const watch = setInterval(() => {
      const working = this.#activity === 'backup' || this.#activity === 'restore';
      if (working && performance.now() - this.#touchedAt < SILENCE_MS) return;
      clearInterval(watch);
      if (!working) return;
      this.#giveUp();
      this.#changed('changed');
    }, 1000);
    watch.unref();
  }

  /** Ends what the link had begun; what was received of a restore is dropped. */
  #giveUp(): void {
    if (this.#activity !== 'backup' && this.#activity !== 'restore') return;
    this.#activity = 'idle';
    this.#restore = null;
    // What was added is there.
    if (this.#addition) void this.rescan().then(() => this.#changed('changed'));
    this.#addition = null;
  }

  async beginBackup(encrypted: boolean): Promise<'running' | 'asking'> {
    this.#mustBeReadable();
    this.#mustBeIdle();
    const { confirmsBackup } = this.#family.capabilities;
    if (confirmsBackup && !this.#timing.ownerConfirms && this.#confirmation !== 'given') {
      this.#confirmation = 'asking';
      this.#changed('changed');
      return 'asking';
    }
    this.#confirmation = 'none';
    await this.rescan();
    this.#encrypted = encrypted;
    this.#activity = 'backup';
    this.#watchForSilence();
    this.#changed('changed');
    return 'running';
  }

  endBackup(): void {
    if (this.#confirmation !== 'none') {
      this.#confirmation = 'none';
      this.#changed('changed');
    }
    if (this.#activity !== 'backup') return;
    this.#activity = 'idle';
    this.#changed('changed');
  }

  async beginRestore(id: string, offer: RestoreOffer): Promise<void> {
    this.#mustBeReadable();
    this.#mustBeIdle();
    if (offer.serial !== this.definition.serial) throw new LinkError('wrong-serial');
    if (offer.family !== this.definition.family) throw new LinkError('wrong-family');
    await this.rescan();
    if (!this.#empty) throw new LinkError('in-use');
    if (this.#condition.ownerLock === 'on') throw new LinkError('owner-locked');
    if (compareOsVersions(this.#osVersion, offer.osVersion) < 0) {
      throw new LinkError('os-too-old');
    }
    if (offer.bytes > this.definition.capacity - this.#family.osBytes) {
      throw new LinkError('device-full');
    }
    const folder = incomingOf(this.#ownContents);
    await rm(folder, { recursive: true, force: true });
    await mkdir(folder, { recursive: true });
    this.#restore = { id, received: new Received(folder) };
    this.#activity = 'restore';
    this.#watchForSilence();
    this.#changed('changed');
  }

  async receive(id: string, entry: NewEntry, contents: AsyncIterable<Uint8Array>): Promise<number> {
    const { received } = this.#running(id);
    const bytes = await received.take(entry, contents);
    const { fullAfterBytes } = this.cable.faults;
    const room = this.definition.capacity - this.#family.osBytes;
    if (received.bytes > Math.min(room, fullAfterBytes ?? room)) throw new LinkError('device-full');
    return bytes;
  }

  drop(id: string, path: string): Promise<void> {
    return this.#running(id).received.drop(path);
  }

  #running(id: string) {
    if (this.#restore?.id !== id || this.#activity !== 'restore')
      throw new LinkError('no-such-entry');
    return this.#restore;
  }

  /** Accepts what was received, then installs it: off the bench, and back with it. */
  commitRestore(id: string, sent: { items: number; bytes: number }): void {
    const { received } = this.#running(id);
    received.mustBe(sent);
    this.#restore = null;
    this.#activity = 'installing';
    this.#changed('changed');
    void this.#installAndReturn(received.folder);
  }

  async #installAndReturn(folder: string): Promise<void> {
    await sleep(Math.min(1500, this.#timing.installMs / 3));
    this.#leave();
    await this.#install(folder);
    this.#comeBack({ passcodeSet: false, ownerLock: this.#ownerLockNow });
  }

  async #install(folder: string): Promise<void> {
    const contents = this.#ownContents;
    await install(folder, contents);
    await sleep(this.#timing.installMs);
    this.#activity = 'idle';
    this.#condition = { ...this.#condition, contents };
    await this.rescan();
    this.#condition = { ...this.#condition, settling: this.#asked() };
  }

  /** Off the bench, and back by itself. */
  #leave(change: Partial<StandInCondition> = {}): void {
    this.#set({ ...change, berth: null, returnsTo: this.#condition.berth }, 'left');
  }

  /** Unless somebody connected it elsewhere meanwhile. */
  #comeBack(change: Partial<StandInCondition> = {}): void {
    const { returnsTo, berth } = this.#condition;
    if (berth === null) this.#set({ ...change, berth: returnsTo, returnsTo: null }, 'arrived');
    else this.#set({ ...change, returnsTo: null });
  }

  /** What a device was at when its bench ended, it ends by itself: it has a power supply of its own. */
  async goOn(): Promise<void> {
    if (this.#condition.returnsTo === null) return;
    const folder = incomingOf(this.#ownContents);
    this.#activity = 'installing';
    const wasInstalling = await stat(folder).then(
      () => true,
      () => false,
    );
    if (wasInstalling) await this.#install(folder);
    this.#activity = 'idle';
    this.#comeBack(wasInstalling ? { passcodeSet: false, ownerLock: this.#ownerLockNow } : {});
  }

  /** All that it asks of its owner when it was filled; applications that its store has download one by one. */
  #asked(): SettlingStep[] {
    const offered = (this.#index?.groups ?? []).filter(
      (group) => group.class === 'applications' && !isWithdrawn(group.id),
    );
    return this.#family.settling.flatMap((id) => {
      const of = id === 'applications' ? offered.length : 1;
      return of > 0 ? [{ id, done: 0, of }] : [];
    });
  }

  /** Its owner does what it asks; applications it downloads by itself, once it is on Wi-Fi. */
  settle(id: SettlingId): void {
    if (id === 'applications') throw new LinkError('not-capable');
    this.#further(id, true);
    if (id === 'wifi') void this.#download();
  }

  #further(id: SettlingId, isAll: boolean): void {
    this.#set({
      settling: this.#condition.settling.map((step) =>
        step.id === id ? { ...step, done: isAll ? step.of : step.done + 1 } : step,
      ),
    });
  }

  async #download(): Promise<void> {
    const left = () =>
      this.#condition.settling.some((step) => step.id === 'applications' && !isSettled(step));
    while (left()) {
      await sleep(this.#timing.downloadMs);
      if (left()) this.#further('applications', false);
    }
  }

  async beginAddition(id: string, serial: string): Promise<void> {
    this.#mustBeReadable();
    this.#mustBeIdle();
    if (!this.#family.capabilities.takes?.adds) throw new LinkError('not-capable');
    if (serial !== this.definition.serial) throw new LinkError('wrong-serial');
    const contents = this.#condition.contents ?? this.#ownContents;
    await mkdir(contents, { recursive: true });
    this.#condition = { ...this.#condition, contents };
    await this.rescan();
    this.#addition = { id, contents, bytes: this.#index?.bytes ?? 0, wasEmpty: this.#empty };
    this.#activity = 'restore';
    this.#watchForSilence();
    this.#changed('changed');
  }

  async add(
    id: string,
    entry: NewEntry,
    contents: AsyncIterable<Uint8Array>,
    replaces: string | null,
  ): Promise<number> {
    const addition = this.#adding(id);
    if (replaces !== null) await this.#mustBeAsRead(addition.contents, entry.path, replaces);
    const { fullAfterBytes } = this.cable.faults;
    const room = this.definition.capacity - this.#family.osBytes;
    const free = Math.min(room - addition.bytes, fullAfterBytes ?? room);
    if (entry.bytes > free) throw new LinkError('device-full');
    const staging = `${addition.contents}.adding`;
    const put = replaces === null ? addEntry : replaceEntry;
    const received = await put(addition.contents, staging, entry, contents);
    const { takes } = this.#family.capabilities;
    if (takes) await keepOwnLetters(addition.contents, entry.path, takes);
    addition.bytes += received;
    return received;
  }

  async takeAway(id: string, path: string, revision: string): Promise<void> {
    const { contents } = this.#adding(id);
    await this.#mustBeAsRead(contents, path, revision);
    await removeEntry(contents, path);
  }

  /** What its owner changed meanwhile is not written over. */
  async #mustBeAsRead(contents: string, path: string, revision: string): Promise<void> {
    if (!this.#family.capabilities.takes?.changes) throw new LinkError('not-capable');
    if ((await entryAt(contents, path)).revision !== revision) throw new LinkError('changed');
  }

  async endAddition(): Promise<void> {
    if (!this.#addition) return;
    const { contents, wasEmpty } = this.#addition;
    this.#activity = 'idle';
    this.#addition = null;
    await rm(`${contents}.adding`, { recursive: true, force: true });
    await this.rescan();
    if (wasEmpty) this.#condition = { ...this.#condition, settling: this.#asked() };
    this.#changed('changed');
  }

  #adding(id: string) {
    if (this.#addition?.id !== id || this.#activity !== 'restore') {
      throw new LinkError('no-such-entry');
    }
    return this.#addition;
  }

  get #ownContents(): string {
    return this.definition.folder ?? join(this.#home, 'contents');
  }

  restart(): void {
    this.#mustBeIdle();
    // The answer goes out before the cable is dead.
    setImmediate(() => void this.#goAndReturn());
  }

  async #goAndReturn(): Promise<void> {
    this.#leave({ unlocked: false });
    await sleep(this.#timing.eraseMs);
    this.#comeBack();
  }

  /** Installs the update that it offers: off the bench, and back with it. */
  async update(): Promise<void> {
    this.#mustBeReadable();
    this.#mustBeIdle();
    const { osUpdate } = this.#condition;
    if (!osUpdate) throw new LinkError('not-capable');
    this.#activity = 'updating';
    this.#changed('changed');
    void (async () => {
      await sleep(this.#timing.eraseMs);
      this.#leave({ unlocked: false });
      await sleep(this.#timing.installMs);
      this.#activity = 'idle';
      this.#condition = { ...this.#condition, osUpdate: null, updatedTo: osUpdate.version };
      this.#comeBack();
    })();
  }

  /** Erases everything. A folder that belongs to somebody is let go of, never deleted. */
  async erase(): Promise<void> {
    this.#mustBeIdle();
    this.#activity = 'erasing';
    this.#changed('changed');
    await sleep(this.#timing.eraseMs);
    const own = join(this.#home, 'contents');
    await rm(own, { recursive: true, force: true });
    this.#activity = 'idle';
    this.#restore = null;
    this.#set({
      contents: null,
      passcodeSet: false,
      unlocked: false,
      approved: false,
      confirmedStores: [],
      settling: [],
      ownerLock: this.#ownerLockNow,
    });
    await this.rescan();
    this.#changed('changed');
  }

  #mustBeReadable(): void {
    if (this.#condition.berth === null) throw new LinkError('no-such-device');
    if (this.#locked) throw new LinkError('locked');
    if (!this.#portOpen) throw new LinkError('port-off');
    if (!this.#approved) throw new LinkError('not-approved');
    if (this.#condition.ownerLock === 'asking') throw new LinkError('owner-locked');
  }

  #mustBeIdle(): void {
    if (this.#activity !== 'idle') throw new LinkError('busy');
  }

  #set(change: Partial<StandInCondition>, what: 'arrived' | 'changed' | 'left' = 'changed'): void {
    this.#condition = { ...this.#condition, ...change };
    this.#changed(what);
  }
}
