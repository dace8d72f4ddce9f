import { randomBytes } from 'node:crypto';
import { deskServes, type DeskAction } from '@bright-cellar/contract';
import { Failure, problemOf, type DeviceId } from '@bright-cellar/core';
import { HeldPassword } from '../kernel/held-password.js';
import { mustBeStrong } from '../kernel/strong-password.js';

/** A password that nobody fetches is forgotten after so long. */
const KEPT_MS = 15 * 60_000;
/** One that a backup was started with is held for its proof: a large device takes hours. */
const HELD_MS = 4 * 3_600_000;

interface Desk {
  /** The device’s id in the catalogue: whatever visit it is on, its archives are under its owner’s passwords. */
  deviceId: DeviceId;
  /** As the page names it. */
  device: string;
  action: DeskAction;
  until: number;
  /** The page takes nothing more: work was started with what was typed. */
  held: boolean;
  /** Null until the customer typed one. The first that is typed closes the page. */
  given: { password: HeldPassword; reminder: string } | null;
  openings: number;
  openedBy: Set<string>;
}

/** What happens at a desk, for the record. */
export interface DeskEvents {
  /** Screens show something else of it now. */
  changed: (deviceId: DeviceId) => void;
  opened: (desk: { deviceId: DeviceId; action: DeskAction; technician: string | null }) => void;
  filled: (desk: { deviceId: DeviceId; action: DeskAction }) => void;
}

/**
 * Where a customer types a password that no technician sees: a page of their own, reached by a code that
 * cannot be guessed, for one device and one thing to be done. What they type closes it, and stays in this memory only: until
 * the quarter of an hour is over or the work that it is for starts, then four hours at most, until the proof of what was
 * taken starts.
 */
export class PasswordDesks {
  readonly #desks = new Map<string, Desk>();
  readonly #events: DeskEvents;

  constructor(events: DeskEvents) {
    this.#events = events;
    setInterval(() => this.#sweep(), 60_000).unref();
  }

  /** Opens a page for a device’s owner, instead of any before. @returns its code */
  open(deviceId: DeviceId, device: string, action: DeskAction): { token: string; until: Date } {
    this.#sweep();
    this.#forget(deviceId);
    const token = randomBytes(16).toString('base64url');
    const until = Date.now() + KEPT_MS;
    this.#desks.set(token, {
      ...{ deviceId, device, action, until, held: false, given: null },
      ...{ openings: 0, openedBy: new Set() },
    });
    return { token, until: new Date(until) };
  }

  stateOf(deviceId: DeviceId) {
    const desk = this.#ofDevice(deviceId);
    if (!desk) {
      return { state: 'none' as const, until: null, action: null, openings: 0, openedBy: [] };
    }
    const state = desk.held
      ? ('held' as const)
      : desk.given
        ? ('given' as const)
        : ('waiting' as const);
    const { until, action, openings, openedBy } = desk;
    return { state, until: new Date(until), action, openings, openedBy: [...openedBy] };
  }

  /**
   * What the page shows, to whoever opens it.
   * @param technician who is signed in where it is opened; null where nobody is
   * @throws Failure `not-found` when it is not open any more.
   */
  view(token: string, technician: string | null) {
    const desk = this.#byToken(token);
    desk.openings += 1;
    if (technician !== null) desk.openedBy.add(technician);
    const { deviceId, device, action, until, openings, openedBy } = desk;
    this.#events.opened({ deviceId, action, technician });
    this.#events.changed(deviceId);
    return { device, action, until: new Date(until), openings, openedBy: [...openedBy] };
  }

  /** Takes what the customer typed, and closes the page. @throws Failure `weak-password`, `not-found`. */
  async give(token: string, given: { password: string; reminder: string }): Promise<void> {
    if (this.#byToken(token).action === 'backup') await mustBeStrong(given.password);
    const desk = this.#byToken(token);
    desk.given = { password: new HeldPassword(given.password), reminder: given.reminder };
    const { deviceId, action } = desk;
    this.#events.filled({ deviceId, action });
    this.#events.changed(deviceId);
  }

  /**
   * Starts work with the password that was typed here, or with the one from the customer's page.
   * @param action what it is; only what the page named is started with what was typed there
   * @param after whether that one is then held for the proof, or forgotten
   * @throws Failure `not-found` when nothing is held; what the work throws: a password that opens nothing is forgotten
   */
  async use<Typed extends { fromDesk: boolean; password: string }, Started>(
    deviceId: DeviceId,
    typed: Typed,
    action: DeskAction,
    after: 'hold' | 'forget',
    start: (wanted: Typed) => Promise<Started>,
  ): Promise<Started> {
    if (!typed.fromDesk) return start(typed);
    const desk = this.#ofDevice(deviceId);
    if (!desk?.given || !deskServes[desk.action].includes(action)) {
      throw new Failure('not-found', {
        what: desk?.given
          ? 'What the customer typed was for something else.'
          : 'The customer has not typed a password, or too long ago.',
        next: 'Open the page for the customer again.',
      });
    }
    const { password, reminder } = desk.given;
    try {
      const started = await start({ ...typed, password: password.use(), reminder });
      if (after === 'forget') this.#forget(deviceId);
      else Object.assign(desk, { held: true, until: Date.now() + HELD_MS });
      this.#events.changed(deviceId);
      return started;
    } catch (error) {
      if (problemOf(error).code === 'wrong-password') {
        this.#forget(deviceId);
        this.#events.changed(deviceId);
      }
      throw error;
    }
  }

  #forget(deviceId: DeviceId): void {
    for (const [token, desk] of this.#desks) if (desk.deviceId === deviceId) this.#remove(token);
  }

  #remove(token: string): void {
    this.#desks.get(token)?.given?.password.forget();
    this.#desks.delete(token);
  }

  #ofDevice(deviceId: DeviceId): Desk | null {
    this.#sweep();
    return [...this.#desks.values()].find((desk) => desk.deviceId === deviceId) ?? null;
  }

  #byToken(token: string): Desk {
    this.#sweep();
    const desk = this.#desks.get(token);
    if (!desk || desk.given) {
      throw new Failure('not-found', {
        what: 'This page is not open any more.',
        next: 'Ask at the counter for a new code.',
      });
    }
    return desk;
  }

  #sweep(): void {
    for (const [token, { until }] of this.#desks) if (until < Date.now()) this.#remove(token);
  }
}
