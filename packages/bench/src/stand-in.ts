import { mkdir, rm } from 'node:fs/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import type { DataClass, DeviceFacts, SettlingId } from '@bright-cellar/core';
import { compareOsVersions, sensitiveClasses } from '@bright-cellar/core';
import {
  addEntry,
  entryAt,
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
import { Alone, incomingOf, type Timing } from './alone.js';
import { isWithdrawn, versionOf } from './application-store.js';
import { Cable, NO_FAULTS, type Faults } from './cable.js';
import { keepOwnLetters } from './own-letters.js';
import { StandInState, type Definition, type StandInCondition } from './stand-in-state.js';

/** After so much silence a device gives up what the link had begun. */
const SILENCE_MS = 30_000;

/** One simulated device. It knows its own rules and refuses what a real one would refuse. */
export class StandIn implements LinkDevice {
  readonly definition: Definition;
  readonly cable: Cable;
  readonly #state: StandInState;
  readonly #alone: Alone;
  readonly #timing: Timing;
  #restore: { id: string; received: Received } | null = null;
  #addition: { id: string; contents: string; bytes: number; wasEmpty: boolean } | null = null;
  /** Whether the running backup is encrypted: some families list less when it is not. */
  #encrypted = true;
  #touchedAt = 0;

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
    this.#timing = timing;
    this.#state = new StandInState(definition, condition, home, changed);
    this.#alone = new Alone(this.#state, timing);
    this.cable = new Cable(
      faults,
      this.#state.family.cableShare,
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
    return this.#state.condition;
  }

  get berth(): number | null {
    return this.#state.condition.berth;
  }

  get readable(): boolean {
    return this.#state.readable;
  }

  facts(): DeviceFacts {
    return this.#state.facts();
  }

  /** Reads the contents. Call before anything else, and whenever the folder may have changed. */
  rescan(): Promise<void> {
    return this.#state.rescan();
  }

  // What its owner does, on the device or with the cable.

  plug(berth: number, connection: 'cable' | 'network' = 'cable'): void {
    this.cable.connection = connection;
    this.#state.set({ berth, connection }, 'arrived');
  }

  unplug(): void {
    if (this.#state.condition.berth === null) return;
    this.#giveUp();
    this.#state.confirmation = 'none';
    this.#state.set({ berth: null, unlocked: false }, 'left');
  }

  unlock(passcode: string): void {
    if (this.#state.condition.passcodeSet && passcode !== this.definition.passcode) {
      throw new LinkError('locked');
    }
    this.#state.set({ unlocked: true });
  }

  lock(): void {
    this.#state.set({ unlocked: false });
  }

  approve(passcode: string): void {
    if (this.#state.locked) throw new LinkError('locked');
    if (this.#state.condition.passcodeSet && passcode !== this.definition.passcode) {
      throw new LinkError('not-approved');
    }
    this.#state.set({ approved: true });
  }

  ownerLockOff(): void {
    this.#state.set({ ownerLock: 'off' });
  }

  /** Some account is still on it, and nobody sees it until the device is begun anew. */
  leaveOwnerLock(): void {
    this.#state.set({ ownerLock: 'unnoticed' });
  }

  setCharge(charge: number): void {
    this.#state.set({ charge });
  }

  setWorkshopPort(workshopPort: 'on' | 'off'): void {
    if (this.#state.family.openingSteps === null) throw new LinkError('not-capable');
    this.#state.set({ workshopPort });
  }

  setWearable(wearable: string | null): void {
    this.#state.set({ wearable });
  }

  setOsUpdate(osUpdate: StandInCondition['osUpdate']): void {
    this.#state.set({ osUpdate });
  }

  /** The number of a chat application is confirmed on the device: its store opens. */
  confirmStore(group: string): void {
    if (!(group in this.#state.family.sealedStores)) throw new LinkError('not-capable');
    this.#state.set({
      confirmedStores: [...new Set([...this.#state.condition.confirmedStores, group])],
    });
  }

  /** The owner agrees on the device that the backup starts. */
  confirmBackup(passcode: string): void {
    if (this.#state.confirmation !== 'asking') throw new LinkError('not-valid');
    if (this.#state.condition.passcodeSet && passcode !== this.definition.passcode) {
      throw new LinkError('not-approved');
    }
    this.#state.confirmation = 'given';
    this.#state.changed('changed');
  }

  // What the link asks of it.

  index(): FolderIndex {
    this.#state.mustBeReadable();
    return (
      this.#state.index ?? {
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
    this.#state.mustBeReadable();
    const before = this.#state.index?.revision;
    await this.rescan();
    const { revision } = this.index();
    if (revision !== before) this.#state.changed('changed');
    return revision;
  }

  listing(dataClass: DataClass): { revision: string; entries: readonly Entry[] } {
    const left =
      this.#state.activity === 'backup' &&
      !this.#encrypted &&
      this.#state.family.capabilities.sensitiveOnlyEncrypted &&
      sensitiveClasses.has(dataClass);
    const { revision, byClass } = this.index();
    return { revision, entries: left ? [] : (byClass.get(dataClass) ?? []) };
  }

  groups(): Group[] {
    const sealed = new Set(
      this.#state.sealedStores().flatMap((s) => (s.confirmed ? [] : [s.group])),
    );
    return this.index().groups.map((group) => ({
      ...group,
      kind: this.#state.family.databases ? 'database' : group.kind,
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
      this.#state.sealedStores().some((store) => store.group === group && !store.confirmed)
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
      const working = this.#state.activity === 'backup' || this.#state.activity === 'restore';
      if (working && performance.now() - this.#touchedAt < SILENCE_MS) return;
      clearInterval(watch);
      if (!working) return;
      this.#giveUp();
      this.#state.changed('changed');
    }, 1000);
    watch.unref();
  }

  /** Ends what the link had begun; what was received of a restore is dropped. */
  #giveUp(): void {
    if (this.#state.activity !== 'backup' && this.#state.activity !== 'restore') return;
    this.#state.activity = 'idle';
    this.#restore = null;
    // What was added is there.
    if (this.#addition) void this.rescan().then(() => this.#state.changed('changed'));
    this.#addition = null;
  }

  async beginBackup(encrypted: boolean): Promise<'running' | 'asking'> {
    this.#state.mustBeReadable();
    this.#state.mustBeIdle();
    const { confirmsBackup } = this.#state.family.capabilities;
    if (confirmsBackup && !this.#timing.ownerConfirms && this.#state.confirmation !== 'given') {
      this.#state.confirmation = 'asking';
      this.#state.changed('changed');
      return 'asking';
    }
    this.#state.confirmation = 'none';
    await this.rescan();
    this.#encrypted = encrypted;
    this.#state.activity = 'backup';
    this.#watchForSilence();
    this.#state.changed('changed');
    return 'running';
  }

  endBackup(): void {
    if (this.#state.confirmation !== 'none') {
      this.#state.confirmation = 'none';
      this.#state.changed('changed');
    }
    if (this.#state.activity !== 'backup') return;
    this.#state.activity = 'idle';
    this.#state.changed('changed');
  }

  async beginRestore(id: string, offer: RestoreOffer): Promise<void> {
    this.#state.mustBeReadable();
    this.#state.mustBeIdle();
    if (offer.serial !== this.definition.serial) throw new LinkError('wrong-serial');
    if (offer.family !== this.definition.family) throw new LinkError('wrong-family');
    await this.rescan();
    if (!this.#state.empty) throw new LinkError('in-use');
    if (this.#state.condition.ownerLock === 'on') throw new LinkError('owner-locked');
    if (compareOsVersions(this.#state.osVersion, offer.osVersion) < 0) {
      throw new LinkError('os-too-old');
    }
    if (offer.bytes > this.definition.capacity - this.#state.family.osBytes) {
      throw new LinkError('device-full');
    }
    const folder = incomingOf(this.#state.ownContents);
    await rm(folder, { recursive: true, force: true });
    await mkdir(folder, { recursive: true });
    this.#restore = { id, received: new Received(folder) };
    this.#state.activity = 'restore';
    this.#watchForSilence();
    this.#state.changed('changed');
  }

  async receive(id: string, entry: NewEntry, contents: AsyncIterable<Uint8Array>): Promise<number> {
    const { received } = this.#running(id);
    const bytes = await received.take(entry, contents);
    const { fullAfterBytes } = this.cable.faults;
    const room = this.definition.capacity - this.#state.family.osBytes;
    if (received.bytes > Math.min(room, fullAfterBytes ?? room)) throw new LinkError('device-full');
    return bytes;
  }

  drop(id: string, path: string): Promise<void> {
    return this.#running(id).received.drop(path);
  }

  #running(id: string) {
    if (this.#restore?.id !== id || this.#state.activity !== 'restore')
      throw new LinkError('no-such-entry');
    return this.#restore;
  }

  /** Accepts what was received, then installs it: off the bench, and back with it. */
  commitRestore(id: string, sent: { items: number; bytes: number }): void {
    const { received } = this.#running(id);
    received.mustBe(sent);
    this.#restore = null;
    this.#state.activity = 'installing';
    this.#state.changed('changed');
    void this.#alone.install(received.folder);
  }

  async beginAddition(id: string, serial: string): Promise<void> {
    this.#state.mustBeReadable();
    this.#state.mustBeIdle();
    if (!this.#state.family.capabilities.takes?.adds) throw new LinkError('not-capable');
    if (serial !== this.definition.serial) throw new LinkError('wrong-serial');
    const contents = this.#state.condition.contents ?? this.#state.ownContents;
    await mkdir(contents, { recursive: true });
    this.#state.condition = { ...this.#state.condition, contents };
    await this.rescan();
    this.#addition = {
      id,
      contents,
      bytes: this.#state.index?.bytes ?? 0,
      wasEmpty: this.#state.empty,
    };
    this.#state.activity = 'restore';
    this.#watchForSilence();
    this.#state.changed('changed');
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
    const room = this.definition.capacity - this.#state.family.osBytes;
    const free = Math.min(room - addition.bytes, fullAfterBytes ?? room);
    if (entry.bytes > free) throw new LinkError('device-full');
    const staging = `${addition.contents}.adding`;
    const put = replaces === null ? addEntry : replaceEntry;
    const received = await put(addition.contents, staging, entry, contents);
    const { takes } = this.#state.family.capabilities;
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
    if (!this.#state.family.capabilities.takes?.changes) throw new LinkError('not-capable');
    if ((await entryAt(contents, path)).revision !== revision) throw new LinkError('changed');
  }

  async endAddition(): Promise<void> {
    if (!this.#addition) return;
    const { contents, wasEmpty } = this.#addition;
    this.#state.activity = 'idle';
    this.#addition = null;
    await rm(`${contents}.adding`, { recursive: true, force: true });
    await this.rescan();
    if (wasEmpty)
      this.#state.condition = { ...this.#state.condition, settling: this.#state.asked() };
    this.#state.changed('changed');
  }

  #adding(id: string) {
    if (this.#addition?.id !== id || this.#state.activity !== 'restore') {
      throw new LinkError('no-such-entry');
    }
    return this.#addition;
  }

  // What it does by itself, once it was told to.

  /** What a device was at when its bench ended, it ends by itself: it has a power supply of its own. */
  goOn(): Promise<void> {
    return this.#alone.goOn();
  }

  settle(id: SettlingId): void {
    this.#alone.settle(id);
  }

  restart(): void {
    this.#alone.restart();
  }

  update(): Promise<void> {
    return this.#alone.update();
  }

  async erase(): Promise<void> {
    await this.#alone.erase();
    this.#restore = null;
  }
}
