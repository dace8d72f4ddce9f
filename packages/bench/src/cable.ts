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
  unreadableEntries: 0,
  fullAfterBytes: null,
};

/** One cable: everything that passes is counted, held to its rate, and cut when the time has come. */
export class Cable {
  faults: Faults;
  readonly #onCut: () => void;
  readonly #onPiece: () => void;
  #freeAt = 0;

  /** @param onPiece told of every piece that passes. */
  constructor(faults: Faults, onCut: () => void, onPiece: () => void) {
    this.faults = faults;
    this.#onCut = onCut;
    this.#onPiece = onPiece;
  }

  async *carry(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    for await (const piece of pieces) {
      this.#onPiece();
      const { rate, cutAfterBytes } = this.faults;
      if (cutAfterBytes !== null) {
        if (cutAfterBytes < piece.length) {
          this.faults = { ...this.faults, cutAfterBytes: null };
          this.#onCut();
          return;
        }
        this.faults = { ...this.faults, cutAfterBytes: cutAfterBytes - piece.length };
      }
      if (rate !== null) {
        const now = performance.now();
        this.#freeAt = Math.max(now, this.#freeAt) + (piece.length / rate) * 1000;
        // Short waits are saved up: a timer is not exact to the millisecond.
        if (this.#freeAt - now > 5) await sleep(this.#freeAt - now);
      }
      yield piece;
    }
  }
}
