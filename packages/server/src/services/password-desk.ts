import { randomBytes } from 'node:crypto';
import { Failure, passwordProblem, problemOf } from '@bright-cellar/core';
import bwip from 'bwip-js/node';

/** A password that nobody fetches is forgotten after so long. */
const KEPT_MS = 15 * 60_000;
/** One that a backup was started with is held for its proof: a large device takes hours. */
const HELD_MS = 4 * 3_600_000;

/** `new`: chosen for a new archive; `open`: that of an archive which is there. */
export type DeskPurpose = 'new' | 'open';

interface Desk {
  /** The device’s id in the catalogue: whatever visit it is on, its archives are under its holder’s passwords. */
  deviceId: string;
  /** As the page names it. */
  device: string;
  purpose: DeskPurpose;
  until: number;
  /** The page takes nothing more: work was started with what was typed. */
  held: boolean;
  /** Null until the customer typed one. */
  given: { password: string; reminder: string } | null;
}

/**
 * Where a customer types a password that no technician sees: a page of their own, reached by a code that
 * cannot be guessed. What they type stays in this memory only: a quarter of an hour until the work that it is for
 * starts, then four hours at most, until the proof of what was taken starts.
 */
export class PasswordDesks {
  readonly #desks = new Map<string, Desk>();

  readonly #changed: () => void;

  /** @param changed told when what screens show of it is another */
  constructor(changed: () => void) {
    this.#changed = changed;
    setInterval(() => this.#sweep(), 60_000).unref();
  }

  /** Opens a page for a device’s holder, instead of any before. @returns its code */
  open(deviceId: string, device: string, purpose: DeskPurpose): { token: string; until: Date } {
    this.#sweep();
    this.#forget(deviceId);
    const token = randomBytes(16).toString('base64url');
    const until = Date.now() + KEPT_MS;
    this.#desks.set(token, { deviceId, device, purpose, until, held: false, given: null });
    return { token, until: new Date(until) };
  }

  stateOf(deviceId: string): { state: 'none' | 'waiting' | 'given' | 'held'; until: Date | null } {
    const desk = this.#ofDevice(deviceId);
    if (!desk) return { state: 'none', until: null };
    const state = desk.held ? 'held' : desk.given ? 'given' : 'waiting';
    return { state, until: new Date(desk.until) };
  }

  /** What the page shows. @throws Failure `not-found` when it is not open any more. */
  view(token: string): { device: string; purpose: DeskPurpose; given: boolean } {
    const { device, purpose, given } = this.#byToken(token);
    return { device, purpose, given: given !== null };
  }

  /** Takes what the customer typed. @throws Failure `weak-password`, `not-found`. */
  give(token: string, given: { password: string; reminder: string }): void {
    const desk = this.#byToken(token);
    const weak = desk.purpose === 'new' ? passwordProblem(given.password) : null;
    if (weak) throw new Failure(weak.code, weak);
    desk.given = given;
    this.#changed();
  }

  /**
   * Starts work with the password that was typed here, or with the one from the customer's page.
   * @param after whether that one is then held for the proof, or forgotten
   * @throws Failure `not-found` when nothing is held; what the work throws: a password that opens nothing is forgotten
   */
  async use<Typed extends { fromDesk: boolean; password: string }, Started>(
    deviceId: string,
    typed: Typed,
    after: 'hold' | 'forget',
    start: (wanted: Typed) => Promise<Started>,
  ): Promise<Started> {
    if (!typed.fromDesk) return start(typed);
    const desk = this.#ofDevice(deviceId);
    if (!desk?.given) {
      throw new Failure('not-found', {
        what: 'The customer has not typed a password, or too long ago.',
        next: 'Open the page for the customer again.',
      });
    }
    try {
      const started = await start({ ...typed, ...desk.given });
      if (after === 'forget') this.#forget(deviceId);
      else Object.assign(desk, { held: true, until: Date.now() + HELD_MS });
      this.#changed();
      return started;
    } catch (error) {
      if (problemOf(error).code === 'wrong-password') {
        this.#forget(deviceId);
        this.#changed();
      }
      throw error;
    }
  }

  #forget(deviceId: string): void {
    for (const [token, desk] of this.#desks)
      if (desk.deviceId === deviceId) this.#desks.delete(token);
  }

  #ofDevice(deviceId: string): Desk | null {
    this.#sweep();
    return [...this.#desks.values()].find((desk) => desk.deviceId === deviceId) ?? null;
  }

  #byToken(token: string): Desk {
    this.#sweep();
    const desk = this.#desks.get(token);
    if (!desk || desk.held) {
      throw new Failure('not-found', {
        what: 'This page is not open any more.',
        next: 'Ask at the counter for a new code.',
      });
    }
    return desk;
  }

  #sweep(): void {
    for (const [token, { until }] of this.#desks) if (until < Date.now()) this.#desks.delete(token);
  }
}

/** A QR code (ISO/IEC 18004) as a picture in SVG. */
export function qrCode(text: string): string {
  return bwip.toSVG({ bcid: 'qrcode', text, scale: 3 });
}
