import {
  Failure,
  formatBytes,
  formatDurationRange,
  formatRate,
  problemOf,
  ProgressMeter,
  type Amount,
} from '@bright-cellar/core';

/** What ended a command. The numbers are part of what scripts rely on. */
export const exitCodes = { whole: 0, wrong: 1, usage: 2 } as const;

const EVERY_MS = 250;

/**
 * What a command says: sentences for a person, or one JSON object a line for a script. Progress goes to
 * a terminal only, so that what is piped on holds results.
 */
export class Output {
  readonly json: boolean;
  #progress: Progress | null = null;

  constructor(json: boolean) {
    this.json = json;
  }

  /** @param facts what a script gets; without it the sentence is for people only. */
  say(sentence: string, facts?: Record<string, unknown>): void {
    this.#clear();
    if (!this.json) process.stdout.write(`${sentence}\n`);
    else if (facts) process.stdout.write(`${JSON.stringify(facts)}\n`);
  }

  fail(error: unknown): void {
    this.#clear();
    const { code, what, safe, next } = problemOf(error);
    if (this.json) {
      process.stdout.write(`${JSON.stringify({ type: 'error', code, what, safe, next })}\n`);
    } else process.stderr.write(`${what}\n${safe}\n${next}\n`);
    const isUnknown = !(error instanceof Failure) && process.env.CELLAR_DEBUG;
    if (isUnknown && error instanceof Error) process.stderr.write(`${error.stack ?? ''}\n`);
  }

  /** Begins a phase. @param total zero where it is not known. */
  phase(name: string, total: Amount = { bytes: 0, items: 0 }): void {
    this.#clear();
    this.#progress = new Progress(name, total, this.json);
  }

  readonly progress = (bytes: number, items: number): void => this.#progress?.add(bytes, items);

  #clear(): void {
    this.#progress?.clear();
    this.#progress = null;
  }
}

class Progress {
  readonly #name: string;
  readonly #total: Amount;
  readonly #json: boolean;
  readonly #meter = new ProgressMeter();
  readonly #done: Amount = { bytes: 0, items: 0 };
  #shown = 0;

  constructor(name: string, total: Amount, json: boolean) {
    this.#name = name;
    this.#total = total;
    this.#json = json;
  }

  add(bytes: number, items: number): void {
    this.#done.bytes += bytes;
    this.#done.items += items;
    const now = Date.now();
    if (now - this.#shown < EVERY_MS) return;
    this.#shown = now;
    this.#meter.record({ ...this.#done }, now);
    this.#show();
  }

  clear(): void {
    if (this.#shown > 0 && !this.#json && process.stderr.isTTY) process.stderr.write('\r\x1b[K');
  }

  #show(): void {
    const { rate, leftLowMs, leftHighMs } = this.#meter.read(this.#total);
    const { bytes, items } = this.#done;
    if (this.#json) {
      const facts = { phase: this.#name, bytes, items, total: this.#total.bytes, rate };
      process.stdout.write(`${JSON.stringify({ type: 'progress', ...facts })}\n`);
    } else if (process.stderr.isTTY) {
      const of = this.#total.bytes > 0 ? ` of ${formatBytes(this.#total.bytes)}` : '';
      const known = this.#total.bytes > 0 && leftLowMs !== null && leftHighMs !== null;
      const left = known ? `, ${formatDurationRange(leftLowMs, leftHighMs)} left` : '';
      process.stderr.write(
        `\r\x1b[K${this.#name}: ${formatBytes(bytes)}${of}, ${items} items, ${formatRate(rate)}${left}`,
      );
    }
  }
}
