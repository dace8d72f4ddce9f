import { randomBytes } from 'node:crypto';
import { Failure, passwordProblem } from '@bright-cellar/core';
import bwip from 'bwip-js/node';

/** A password that nobody fetches is forgotten after so long. */
const KEPT_MS = 15 * 60_000;

interface Desk {
  ticket: string;
  device: string;
  until: number;
  /** Null until the customer typed one. */
  given: { password: string; reminder: string } | null;
}

/**
 * Where a customer types a password that no technician sees: a page of their own, reached by a code that
 * cannot be guessed. What they type stays in this memory, for a quarter of an hour at most, until the backup
 * that it is for starts.
 */
export class PasswordDesks {
  readonly #desks = new Map<string, Desk>();

  /** Opens a page for a ticket, instead of any before. @returns its code */
  open(ticket: string, device: string): { token: string; until: Date } {
    this.#sweep();
    for (const [token, desk] of this.#desks) if (desk.ticket === ticket) this.#desks.delete(token);
    const token = randomBytes(16).toString('base64url');
    const until = Date.now() + KEPT_MS;
    this.#desks.set(token, { ticket, device, until, given: null });
    setTimeout(() => this.#sweep(), KEPT_MS + 1000).unref();
    return { token, until: new Date(until) };
  }

  stateOf(ticket: string): 'none' | 'waiting' | 'given' {
    const desk = this.#ofTicket(ticket);
    return desk ? (desk.given ? 'given' : 'waiting') : 'none';
  }

  /** What the page shows. @throws Failure `not-found` when it is not open any more. */
  view(token: string): { device: string; given: boolean } {
    const { device, given } = this.#byToken(token);
    return { device, given: given !== null };
  }

  /** Takes what the customer typed. @returns the ticket it is for. @throws Failure `weak-password`, `not-found`. */
  give(token: string, given: { password: string; reminder: string }): string {
    const desk = this.#byToken(token);
    const weak = passwordProblem(given.password);
    if (weak) throw new Failure(weak.code, weak);
    desk.given = given;
    return desk.ticket;
  }

  /** What was typed for a ticket; it is forgotten here by {@link done}. @throws Failure `not-found` */
  passwordOf(ticket: string): { password: string; reminder: string } {
    const given = this.#ofTicket(ticket)?.given;
    if (!given) {
      throw new Failure('not-found', {
        what: 'The customer has not typed a password, or too long ago.',
        next: 'Open the page for the customer again.',
      });
    }
    return given;
  }

  done(ticket: string): void {
    for (const [token, desk] of this.#desks) if (desk.ticket === ticket) this.#desks.delete(token);
  }

  #ofTicket(ticket: string): Desk | null {
    this.#sweep();
    return [...this.#desks.values()].find((desk) => desk.ticket === ticket) ?? null;
  }

  #byToken(token: string): Desk {
    this.#sweep();
    const desk = this.#desks.get(token);
    if (!desk) {
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
