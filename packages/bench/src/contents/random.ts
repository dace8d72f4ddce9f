import seedrandom from 'seedrandom';

/** Chance that comes out the same for the same seed. */
export class Chance {
  readonly #next: seedrandom.PRNG;

  constructor(seed: string) {
    this.#next = seedrandom(seed);
  }

  /** From 0 up to, not including, 1. */
  share(): number {
    return this.#next();
  }

  /** A whole number from `low` to `high`, both included. */
  whole(low: number, high: number): number {
    return low + Math.floor(this.#next() * (high - low + 1));
  }

  pick<T>(from: readonly [T, ...T[]] | readonly T[]): T {
    const chosen = from[this.whole(0, from.length - 1)];
    if (chosen === undefined) throw new RangeError('nothing to pick from');
    return chosen;
  }

  happens(share: number): boolean {
    return this.#next() < share;
  }

  bytes(length: number): Buffer {
    const buffer = Buffer.allocUnsafe(length);
    for (let i = 0; i < length; i++) buffer[i] = this.whole(0, 255);
    return buffer;
  }
}
