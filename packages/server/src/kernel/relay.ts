import { setTimeout as sleep } from 'node:timers/promises';
import type { Change } from '@bright-cellar/contract';
import { asc, gt, lt, max, min } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { outbox } from '../database/schema.js';
import type { Clock } from './clock.js';
import { describeError, type Log } from '../log.js';

/** Whoever is not woken looks by themselves so often: a message that was lost costs a moment, never a change. */
const LOOK_EVERY_MS = 2_000;
/** Ids are given before a transaction commits: one that took longer comes after those that are higher. */
const LATE_AT_MOST_MS = 30_000;
/** A browser that was away for longer reads everything again. */
const KEPT_MS = 3_600_000;
const TIDY_EVERY_MS = 600_000;
const BATCH = 1_000;

/** Tells what was written into the outbox, by whatever process: each once, soon after it was committed. */
export class Relay {
  readonly #db: Database;
  readonly #clock: Clock;
  readonly #log: Log;
  readonly #tell: (changes: Change[], upTo: number) => void;
  /** All up to this id were told, or will never come. */
  #toldUpTo = 0;
  /** Told, above that. */
  #told = new Map<number, number>();
  #wake: () => void = () => undefined;
  #tidied = 0;

  constructor(
    { db, clock, log }: { db: Database; clock: Clock; log: Log },
    tell: (changes: Change[], upTo: number) => void,
  ) {
    this.#db = db;
    this.#clock = clock;
    this.#log = log;
    this.#tell = tell;
  }

  /** Something was committed. */
  wake(): void {
    this.#wake();
  }

  /** All up to this id were told, or will never come. */
  get upTo(): number {
    return this.#toldUpTo;
  }

  /** Follows the outbox until aborted. What was there before is not told: whoever asks now reads it anyway. */
  async follow(signal: AbortSignal): Promise<void> {
    let isBegun = false;
    while (!signal.aborted) {
      // Woken while it looks, it does not sleep: what was committed since may not have been seen.
      const woken = new AbortController();
      this.#wake = () => woken.abort();
      try {
        await (isBegun ? this.#look() : this.#begin());
        isBegun = true;
        await this.#tidy();
      } catch (error) {
        if (ended(signal)) return;
        this.#log.warn({ error: describeError(error) }, 'the outbox could not be read');
      }
      await sleep(LOOK_EVERY_MS, undefined, {
        signal: AbortSignal.any([signal, woken.signal]),
      }).catch(() => undefined);
    }
  }

  async #begin(): Promise<void> {
    const [newest] = await this.#db.select({ id: max(outbox.id) }).from(outbox);
    this.#toldUpTo = newest?.id ?? 0;
  }

  async #look(): Promise<void> {
    const rows = await this.#db
      .select()
      .from(outbox)
      .where(gt(outbox.id, this.#toldUpTo))
      .orderBy(asc(outbox.id))
      .limit(BATCH);
    const now = performance.now();
    const fresh = rows.filter(({ id }) => !this.#told.has(id));
    for (const { id } of fresh) this.#told.set(id, now);
    // Forward over all that is told without a gap, and over gaps that are too old to be filled.
    for (const [id, at] of [...this.#told].sort(([a], [b]) => a - b)) {
      if (id !== this.#toldUpTo + 1 && now - at < LATE_AT_MOST_MS) break;
      this.#toldUpTo = id;
      this.#told.delete(id);
    }
    if (fresh.length > 0) this.#tell(distinct(fresh), this.#toldUpTo);
    if (rows.length === BATCH) await this.#look();
  }

  /** What changed since somebody was told last; null where that is too long ago to say. */
  async since(id: number): Promise<Change[] | null> {
    const [oldest] = await this.#db.select({ id: min(outbox.id) }).from(outbox);
    if (id < (oldest?.id ?? 0) - 1 || id > this.#toldUpTo) return null;
    const rows = await this.#db
      .select()
      .from(outbox)
      .where(gt(outbox.id, id))
      .orderBy(asc(outbox.id))
      .limit(BATCH);
    return rows.length === BATCH ? null : distinct(rows);
  }

  async #tidy(): Promise<void> {
    const now = performance.now();
    if (now - this.#tidied < TIDY_EVERY_MS) return;
    this.#tidied = now;
    const old = new Date(this.#clock.now().getTime() - KEPT_MS);
    await this.#db.delete(outbox).where(lt(outbox.at, old));
  }
}

/** Asked through a function, since it changes while something else is awaited. */
const ended = (signal: AbortSignal): boolean => signal.aborted;

const distinct = (rows: readonly Change[]): Change[] => [
  ...new Map(rows.map(({ subject, ref }) => [`${subject} ${ref}`, { subject, ref }])).values(),
];
