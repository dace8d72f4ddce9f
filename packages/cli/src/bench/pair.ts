import type { Run } from './run-process.js';

export interface Measure {
  name: string;
  baseline: string;
  /** Largest ratio that is aimed at. */
  aim: number;
  baselineSeconds: number;
  seconds: number;
  ratio: number;
}

export interface Measured {
  size: number;
  rounds: number;
  measures: Measure[];
  /** The largest resident memory of each command. */
  peakBytes: Record<string, number>;
}

/** Times of the baseline and of this program, taken in turns. */
export class Pair {
  readonly name: string;
  readonly #baseline: string;
  readonly #aim: number;
  readonly #theirs: number[] = [];
  readonly #ours: number[] = [];

  constructor(name: string, baseline: string, aim: number) {
    this.name = name;
    this.#baseline = baseline;
    this.#aim = aim;
  }

  add(theirs: Run, ours: Run): void {
    this.#theirs.push(theirs.seconds);
    this.#ours.push(ours.seconds);
  }

  result(): Measure {
    const baselineSeconds = median(this.#theirs);
    const seconds = median(this.#ours);
    return {
      name: this.name,
      baseline: this.#baseline,
      aim: this.#aim,
      baselineSeconds,
      seconds,
      ratio: seconds / baselineSeconds,
    };
  }
}

function median(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  const upper = sorted[middle] ?? 0;
  return sorted.length % 2 === 1 ? upper : (upper + (sorted[middle - 1] ?? 0)) / 2;
}
