import { setTimeout as sleep } from 'node:timers/promises';
import { z } from 'zod';

/** What can be wrong with a cable or a device, set through the control API. */
export const faultsSchema = z.object({
  /** Bytes a second over the cable; null for as fast as it goes. */
  rate: z.int().min(1).nullable(),
  /** Added to every answer, ms. */
  latencyMs: z.int().min(0).max(60_000),
  /** The cable is pulled after so many more bytes of contents; null for never. */
  cutAfterBytes: z.int().min(0).nullable(),
  /** On the shop network: the connection breaks after each so many bytes, and the device stays; null for never. */
  dropEveryBytes: z.int().min(1).nullable(),
  /** The device locks itself after so many more bytes, as one that goes to sleep does; null for never. */
  sleepAfterBytes: z.int().min(0).nullable(),
  /** How many entries, the last of the listing first, cannot be read. */
  unreadableEntries: z.int().min(0),
  /** The device says that it is full after so many received bytes; null for never. */
  fullAfterBytes: z.int().min(0).nullable(),
});
export type Faults = z.infer<typeof faultsSchema>;

export const NO_FAULTS: Faults = {
  rate: null,
  latencyMs: 0,
  cutAfterBytes: null,
  dropEveryBytes: 48_000_000,
  sleepAfterBytes: null,
  unreadableEntries: 0,
  fullAfterBytes: null,
};

/** The connection broke in the middle of something; the device may still be there. */
export class Dropped extends Error {}

/** How quick the shop network is beside a cable. */
const NETWORK_SHARE = 0.35;

/** One cable: everything that passes is counted, held to its rate, and cut when the time has come. */
export class Cable {
  faults: Faults;
  connection: 'cable' | 'network' = 'cable';
  /** Called when the device falls asleep in the middle. */
  onSleep: () => void = () => undefined;
  readonly #share: number;
  readonly #onCut: () => void;
  readonly #onPiece: () => void;
  #freeAt = 0;
  #sinceDrop = 0;

  /**
   * @param share how quick it is beside the bench's usual cable
   * @param onPiece told of every piece that passes
   */
  constructor(faults: Faults, share: number, onCut: () => void, onPiece: () => void) {
    this.faults = faults;
    this.#share = share;
    this.#onCut = onCut;
    this.#onPiece = onPiece;
  }

  async *carry(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    for await (const piece of pieces) {
      this.#onPiece();
      const { cutAfterBytes, sleepAfterBytes } = this.faults;
      const rate = this.#rate();
      if (cutAfterBytes !== null) {
        if (cutAfterBytes < piece.length) {
          this.faults = { ...this.faults, cutAfterBytes: null };
          this.#onCut();
          return;
        }
        this.faults = { ...this.faults, cutAfterBytes: cutAfterBytes - piece.length };
      }
      if (sleepAfterBytes !== null) {
        const left = sleepAfterBytes - piece.length;
        this.faults = { ...this.faults, sleepAfterBytes: left < 0 ? null : left };
        if (left < 0) {
          this.onSleep();
          throw new Dropped();
        }
      }
      if (this.#drops(piece.length)) throw new Dropped();
      if (rate !== null) {
        const now = performance.now();
        this.#freeAt = Math.max(now, this.#freeAt) + (piece.length / rate) * 1000;
        // Short waits are saved up: a timer is not exact to the millisecond.
        if (this.#freeAt - now > 5) await sleep(this.#freeAt - now);
      }
      yield piece;
    }
  }

  /** Bytes a second as it is connected now; null for as fast as it goes. */
  #rate(): number | null {
    const { rate } = this.faults;
    return rate === null
      ? null
      : rate * this.#share * (this.connection === 'network' ? NETWORK_SHARE : 1);
  }

  #drops(bytes: number): boolean {
    const { dropEveryBytes } = this.faults;
    if (this.connection === 'cable' || dropEveryBytes === null) return false;
    this.#sinceDrop += bytes;
    if (this.#sinceDrop < dropEveryBytes) return false;
    this.#sinceDrop = 0;
    return true;
  }
}
