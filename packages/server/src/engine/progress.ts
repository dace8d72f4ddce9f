import { ProgressMeter, type OperationKind, type OperationPhase } from '@bright-cellar/core';

export interface ProgressSnapshot {
  phase: string;
  doneBytes: number;
  totalBytes: number;
  doneItems: number;
  totalItems: number;
  rate: number;
  leftLowMs: number | null;
  leftHighMs: number | null;
  needs: string | null;
}

const EVERY_MS = 400;

/** Gathers how far a job is, and hands it on a few times a second, never more. */
export class Progress<Kind extends OperationKind = OperationKind> {
  readonly #publish: (snapshot: ProgressSnapshot) => Promise<void>;
  #meter = new ProgressMeter();
  #now: ProgressSnapshot;
  #publishing: Promise<void> = Promise.resolve();
  #lastAt = 0;

  constructor(phase: string, publish: (snapshot: ProgressSnapshot) => Promise<void>) {
    this.#publish = publish;
    this.#now = {
      phase,
      doneBytes: 0,
      totalBytes: 0,
      doneItems: 0,
      totalItems: 0,
      rate: 0,
      leftLowMs: null,
      leftHighMs: null,
      needs: null,
    };
  }

  async phase(phase: OperationPhase<Kind>, total: { bytes: number; items: number }): Promise<void> {
    this.#meter = new ProgressMeter();
    this.#meter.record({ bytes: 0, items: 0 }, performance.now());
    this.#now = {
      ...this.#now,
      phase,
      doneBytes: 0,
      doneItems: 0,
      totalBytes: total.bytes,
      totalItems: total.items,
      rate: 0,
      leftLowMs: null,
      leftHighMs: null,
      needs: null,
    };
    await this.#send();
  }

  /** Says what somebody must do on the device before the work goes on; null when it goes on. */
  async needs(sentence: string | null): Promise<void> {
    if (this.#now.needs === sentence) return;
    this.#now = { ...this.#now, needs: sentence };
    await this.#send();
  }

  /** The work stands still on purpose: what it did before says nothing about its rate after. */
  rest(): void {
    this.#meter = new ProgressMeter();
    this.#now = { ...this.#now, rate: 0, leftLowMs: null, leftHighMs: null };
    void this.#send();
  }

  /** Cheap enough to call for every piece. */
  add(bytes: number, items: number): void {
    this.#now.doneBytes += bytes;
    this.#now.doneItems += items;
    const now = performance.now();
    if (now - this.#lastAt < EVERY_MS) return;
    this.#meter.record({ bytes: this.#now.doneBytes, items: this.#now.doneItems }, now);
    const { totalBytes, totalItems } = this.#now;
    Object.assign(this.#now, this.#meter.read({ bytes: totalBytes, items: totalItems }));
    void this.#send();
  }

  /** Everything published so far is written. */
  async flushed(): Promise<void> {
    await this.#publishing;
  }

  #send(): Promise<void> {
    this.#lastAt = performance.now();
    const snapshot = { ...this.#now };
    // One after the other, and a failure to tell does not end the work: the lease decides that.
    this.#publishing = this.#publishing.then(() => this.#publish(snapshot)).catch(() => undefined);
    return this.#publishing;
  }
}
