import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { isSettled, type SettlingId } from '@bright-cellar/core';
import { install } from '@bright-cellar/adapter';
import { LinkError } from '@bright-cellar/device-link';
import type { StandInCondition, StandInState } from './stand-in-state.js';

export interface Timing {
  /** How long a device stays away while it installs, and how long it takes to erase, in ms. */
  installMs: number;
  eraseMs: number;
  /** How long it takes to download one application, in ms. */
  downloadMs: number;
  /** Whether whoever holds the devices confirms at once what they ask when work starts. */
  ownerConfirms: boolean;
}

/** Where what a restore brings gathers. */
export const incomingOf = (contents: string): string => `${contents}.incoming`;

/** What a stand-in does by itself, once it was told to: most of it away from the bench. */
export class Alone {
  readonly #state: StandInState;
  readonly #timing: Timing;

  constructor(state: StandInState, timing: Timing) {
    this.#state = state;
    this.#timing = timing;
  }

  /** Installs what was received: off the bench, and back with it. */
  async install(folder: string): Promise<void> {
    await sleep(Math.min(1500, this.#timing.installMs / 3));
    this.#leave();
    await this.#takeIn(folder);
    this.#comeBack({ passcodeSet: false, ownerLock: this.#state.ownerLockNow });
  }

  async #takeIn(folder: string): Promise<void> {
    const contents = this.#state.ownContents;
    await install(folder, contents);
    await sleep(this.#timing.installMs);
    this.#state.activity = 'idle';
    this.#state.condition = { ...this.#state.condition, contents };
    await this.#state.rescan();
    this.#state.condition = { ...this.#state.condition, settling: this.#state.asked() };
  }

  /** Off the bench, and back by itself. */
  #leave(change: Partial<StandInCondition> = {}): void {
    this.#state.set({ ...change, berth: null, returnsTo: this.#state.condition.berth }, 'left');
  }

  /** Unless somebody connected it elsewhere meanwhile. */
  #comeBack(change: Partial<StandInCondition> = {}): void {
    const { returnsTo, berth } = this.#state.condition;
    if (berth === null)
      this.#state.set({ ...change, berth: returnsTo, returnsTo: null }, 'arrived');
    else this.#state.set({ ...change, returnsTo: null });
  }

  /** What a device was at when its bench ended, it ends by itself: it has a power supply of its own. */
  async goOn(): Promise<void> {
    if (this.#state.condition.returnsTo === null) return;
    const folder = incomingOf(this.#state.ownContents);
    this.#state.activity = 'installing';
    const wasInstalling = await stat(folder).then(
      () => true,
      () => false,
    );
    if (wasInstalling) await this.#takeIn(folder);
    this.#state.activity = 'idle';
    this.#comeBack(
      wasInstalling ? { passcodeSet: false, ownerLock: this.#state.ownerLockNow } : {},
    );
  }

  /** Its owner does what it asks; applications it downloads by itself, once it is on Wi-Fi. */
  settle(id: SettlingId): void {
    if (id === 'applications') throw new LinkError('not-capable');
    this.#further(id, true);
    if (id === 'wifi') void this.#download();
  }

  #further(id: SettlingId, isAll: boolean): void {
    this.#state.set({
      settling: this.#state.condition.settling.map((step) =>
        step.id === id ? { ...step, done: isAll ? step.of : step.done + 1 } : step,
      ),
    });
  }

  async #download(): Promise<void> {
    const left = () =>
      this.#state.condition.settling.some((step) => step.id === 'applications' && !isSettled(step));
    while (left()) {
      await sleep(this.#timing.downloadMs);
      if (left()) this.#further('applications', false);
    }
  }

  restart(): void {
    this.#state.mustBeIdle();
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
    this.#state.mustBeReadable();
    this.#state.mustBeIdle();
    const { osUpdate } = this.#state.condition;
    if (!osUpdate) throw new LinkError('not-capable');
    this.#state.activity = 'updating';
    this.#state.changed('changed');
    void (async () => {
      await sleep(this.#timing.eraseMs);
      this.#leave({ unlocked: false });
      await sleep(this.#timing.installMs);
      this.#state.activity = 'idle';
      this.#state.condition = {
        ...this.#state.condition,
        osUpdate: null,
        updatedTo: osUpdate.version,
      };
      this.#comeBack();
    })();
  }

  /** Erases everything. A folder that belongs to somebody is let go of, never deleted. */
  async erase(): Promise<void> {
    this.#state.mustBeIdle();
    this.#state.activity = 'erasing';
    this.#state.changed('changed');
    await sleep(this.#timing.eraseMs);
    const own = join(this.#state.home, 'contents');
    await rm(own, { recursive: true, force: true });
    this.#state.activity = 'idle';
    this.#state.set({
      contents: null,
      passcodeSet: false,
      unlocked: false,
      approved: false,
      confirmedStores: [],
      settling: [],
      ownerLock: this.#state.ownerLockNow,
    });
    await this.#state.rescan();
    this.#state.changed('changed');
  }
}
