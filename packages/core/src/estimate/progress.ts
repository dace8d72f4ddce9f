/** What a person wants to know of long work. Times in milliseconds, rates in bytes a second. */
export interface ProgressReading {
  rate: number;
  /** Null until there is enough to judge by. */
  leftLowMs: number | null;
  leftHighMs: number | null;
}

export interface Amount {
  bytes: number;
  items: number;
}

const WINDOW_MS = 20_000;
const SETTLE_MS = 2_000;
/** About an 80 % range for rates that vary as those of the recent buckets do. */
const SPREAD = 1.28;
/** What asking for one item costs, in bytes of the time it takes: without it a thousand contacts look like an hour. */
const ITEM_COST = 64_000;

const workOf = ({ bytes, items }: Amount) => bytes + items * ITEM_COST;

/**
 * Measures the rate of work over the last seconds, and gives the time left as a range that is as wide
 * as the rate has been unsteady. Has no clock: the caller says when.
 */
export class ProgressMeter {
  #samples: { at: number; bytes: number; work: number }[] = [];

  record(done: Amount, at: number): void {
    this.#samples.push({ at, bytes: done.bytes, work: workOf(done) });
    const oldest = at - WINDOW_MS;
    while (this.#samples.length > 2 && (this.#samples[1]?.at ?? at) <= oldest) {
      this.#samples.shift();
    }
  }

  read(total: Amount): ProgressReading {
    const first = this.#samples[0];
    const last = this.#samples.at(-1);
    if (!first || !last || last.at <= first.at) {
      return { rate: 0, leftLowMs: null, leftHighMs: null };
    }
    const elapsed = last.at - first.at;
    const rate = ((last.bytes - first.bytes) / elapsed) * 1000;
    const speed = (last.work - first.work) / elapsed;
    if (speed <= 0 || elapsed < SETTLE_MS) return { rate, leftLowMs: null, leftHighMs: null };
    const left = Math.max(0, workOf(total) - last.work);
    const spread = Math.min(0.6, Math.max(0.05, SPREAD * this.#unsteadiness(speed)));
    return {
      rate,
      leftLowMs: left / (speed * (1 + spread)),
      leftHighMs: left / (speed * (1 - spread)),
    };
  }

  /** Standard error of the speed, relative to it, from about one-second buckets. */
  #unsteadiness(speed: number): number {
    const speeds: number[] = [];
    let from = this.#samples[0];
    for (const sample of this.#samples) {
      if (!from || sample.at - from.at < 1000) continue;
      speeds.push((sample.work - from.work) / (sample.at - from.at));
      from = sample;
    }
    if (speeds.length < 2) return 0.3;
    const variance = speeds.reduce((sum, s) => sum + (s - speed) ** 2, 0) / (speeds.length - 1);
    return Math.sqrt(variance / speeds.length) / speed;
  }
}
