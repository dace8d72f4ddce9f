import { setTimeout as sleep } from 'node:timers/promises';
import {
  openingRemedy,
  ownerLockRemedy,
  whereIs,
  type DeviceFacts,
  type LinkDeviceId,
} from '@bright-cellar/core';
import { LinkError, type DeviceLink } from '@bright-cellar/device-link';
import type { Progress } from './progress.js';

const LOOK_EVERY_MS = 500;
/** A device gives up a backup in which nothing is asked for so long; a pause asks in between. */
const KEEP_AWAKE_MS = 5_000;

/** Refusals that end by themselves when somebody does something on the device, or at its cable. */
const waitable: ReadonlySet<LinkError['code']> = new Set<LinkError['code']>([
  'locked',
  'not-approved',
  'port-off',
  'no-such-device',
  'no-answer',
  'left',
  'owner-locked',
]);

/** Whether something on a device was refused only for now. */
const passes = (refusal: unknown): refusal is LinkError =>
  refusal instanceof LinkError && waitable.has(refusal.code);

/** Its owner lock stands in the way of only some of what is done with a device. */
const remedyFor = (facts: DeviceFacts, refusal: LinkError): string | null =>
  refusal.code === 'owner-locked' && facts.ownerLock !== 'off'
    ? ownerLockRemedy(facts)
    : openingRemedy(facts);

/** What work tells of its state while it waits. */
type Told = Pick<Progress, 'needs' | 'rest'>;

/** What the work on a device waits for: somebody's hands on it, its cable, or a person who paused it. */
export class DeviceSession {
  readonly #link: DeviceLink;
  readonly #device: LinkDeviceId | null;
  readonly #progress: Told;
  readonly #signal: AbortSignal;
  readonly #waitMs: number;
  #paused = false;
  #stoodStillMs = 0;
  #isStanding = false;
  /** Where it was last seen, so that the sentence about its cable can name the berth. */
  #last: DeviceFacts | null = null;

  /** @param waitMs how long to wait for a device that left; 0 gives up at once */
  constructor(
    link: DeviceLink,
    device: LinkDeviceId | null,
    progress: Told,
    signal: AbortSignal,
    waitMs: number,
  ) {
    this.#link = link;
    this.#device = device;
    this.#progress = progress;
    this.#signal = signal;
    this.#waitMs = waitMs;
  }

  /** How long the work waited for somebody so far. */
  get stoodStillMs(): number {
    return Math.round(this.#stoodStillMs);
  }

  /** Whether a device is read or written now: not while somebody’s hands, or their word, are waited for. */
  get isAtWork(): boolean {
    return this.#device !== null && !this.#isStanding;
  }

  async #standing(wait: () => Promise<void>): Promise<void> {
    const began = performance.now();
    this.#isStanding = true;
    try {
      await wait();
    } finally {
      this.#isStanding = false;
      this.#stoodStillMs += performance.now() - began;
    }
  }

  /** Work without a device waits for nothing of one. */
  get #named(): LinkDeviceId {
    if (this.#device === null) throw new Error('this work has no device');
    return this.#device;
  }

  pause(paused: boolean): void {
    this.#paused = paused;
  }

  /** Asked through a function, since it changes while something else is awaited. */
  #isPaused(): boolean {
    return this.#paused;
  }

  /** Returns at once unless somebody paused the work; then when they let it go on. */
  async goOn(): Promise<void> {
    if (this.#paused) await this.#standing(() => this.#whilePaused());
  }

  async #whilePaused(): Promise<void> {
    let awakeAt = performance.now();
    this.#progress.rest();
    while (this.#isPaused()) {
      if (this.#device !== null && performance.now() - awakeAt > KEEP_AWAKE_MS) {
        awakeAt = performance.now();
        await this.#link.facts(this.#named).catch(() => undefined);
      }
      await sleep(LOOK_EVERY_MS, undefined, { signal: this.#signal });
    }
    this.#progress.rest();
  }

  /** Begins the backup on the device, and waits for its owner where the device asks for them. */
  async begin(encrypted: boolean): Promise<void> {
    for (;;) {
      const state = await this.#link.beginBackup(this.#named, encrypted);
      if (state === 'running') return this.#progress.needs(null);
      const facts = await this.#link.facts(this.#named);
      await this.#progress.needs(
        `On the ${facts.kind} ${whereIs(facts)}, confirm with the passcode that the backup starts.`,
      );
      await this.#standing(() => this.#until((now) => now?.confirmation !== 'asking'));
    }
  }

  /** The same for another device that the work has to do with. */
  of(device: LinkDeviceId): DeviceSession {
    if (device === this.#device) return this;
    return new DeviceSession(this.#link, device, this.#progress, this.#signal, this.#waitMs);
  }

  /**
   * Waits until the device can be read again after a refusal, and begins the backup anew on it.
   * @throws the refusal itself when waiting would not end it, or when the device did not return in time.
   */
  async waitOut(refusal: unknown, encrypted: boolean): Promise<void> {
    await this.untilBack(refusal);
    if (this.#last?.activity !== 'backup') await this.begin(encrypted);
    await this.#progress.needs(null);
    this.#progress.rest();
  }

  /**
   * Waits until the device can be read again after a refusal, and does nothing of its own.
   * @throws the refusal itself when waiting would not end it, or when the device did not return in time.
   */
  async untilBack(refusal: unknown): Promise<void> {
    if (!passes(refusal) || this.#waitMs === 0) throw refusal;
    if (refusal.code === 'owner-locked') await this.#mustSayItsLock(refusal);
    const until = performance.now() + this.#waitMs;
    this.#progress.rest();
    const isBack = async (facts: DeviceFacts | null): Promise<boolean> => {
      if (performance.now() > until) throw refusal;
      const remedy = facts && remedyFor(facts, refusal);
      if (facts && !remedy) return facts.activity === 'idle' || facts.activity === 'backup';
      const last = this.#last;
      await this.#progress.needs(
        remedy ??
          (last?.connection === 'network'
            ? 'Bring the device back onto the shop network.'
            : `Connect the device again${last ? ` to berth ${last.berth}` : ''}.`),
      );
      return false;
    };
    await this.#standing(() => this.#until(isBack));
    await this.#progress.needs(null);
    this.#progress.rest();
  }

  /** One that is refused for a lock that nobody can see would be asked for ever. */
  async #mustSayItsLock(refusal: LinkError): Promise<void> {
    const facts = await this.#link.facts(this.#named).catch(() => null);
    if (facts?.ownerLock === 'off') throw refusal;
  }

  /** Asks the device, again and again, until the answer is right; null while it is away. */
  async #until(right: (facts: DeviceFacts | null) => boolean | Promise<boolean>): Promise<void> {
    for (;;) {
      this.#signal.throwIfAborted();
      const facts = await this.#link.facts(this.#named).catch((error: unknown) => {
        if (passes(error)) return null;
        throw error;
      });
      this.#last = facts ?? this.#last;
      if (await right(facts)) return;
      await sleep(LOOK_EVERY_MS, undefined, { signal: this.#signal });
    }
  }
}
