import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { availableParallelism } from 'node:os';
import { ExponentialBackoff, handleAll, handleWhen, noJitterGenerator, retry } from 'cockatiel';
import {
  activeStates,
  afterOperationEvent,
  deadlineOf,
  deadlines,
  definitionOf,
  Failure,
  problem,
  problemOf,
  type OperationEvent,
  type OperationKind,
  type OperationState,
  type Problem,
} from '@bright-cellar/core';
import type { Picked } from '@bright-cellar/core/crossing';
import type { DeviceLink } from '@bright-cellar/device-link';
import { and, eq, inArray, isNotNull, isNull, lt, lte, ne, or } from 'drizzle-orm';
import { databaseFailure, isDatabaseAway } from '../database/connect.js';
import { operations } from '../database/schema.js';
import { inTheNameOf } from '../kernel/actor.js';
import { whileHeld } from '../kernel/held-password.js';
import { describeError, type Log } from '../log.js';
import { unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import { DeviceSession } from './device-session.js';
import { whileBenchWorks } from './give-way.js';
import type { Ending, Job, Remains, Run, Runs } from './job.js';
import { linkFailure } from './link-failures.js';
import { releaseLocks, whileHolding } from './locks.js';
import { handled, pauseOrder, startOrder, stopOrder, type Handled } from './orders.js';
import { Progress } from './progress.js';
import { rowOf, versioned, type AnyRow } from './rows.js';
import { tellOf } from './tell.js';
import { operationRow } from './views.js';

const LEASE_MS = 15_000;
const RENEW_MS = 5_000;
/** An end that cannot be recorded is tried again, less and less often. */
const tryAgain = { initialDelay: 250, maxDelay: 5_000, generator: noJitterGenerator };
/** Work waits so long for a database that went away. */
const DATABASE_AWAY_AT_MOST_MS = 120_000;
/** When this process ends, what cannot be recorded by then is left to the next one. */
const CLOSE_AT_MOST_MS = 10_000;

/** One piece of work uses two cores at most: one reads and seals faster than any cable. */
const THREADS_AT_MOST = 2;

/** Threads for a piece of work that begins beside others: each has its share of the cores, and one at least. */
const fairShare = (running: number): number =>
  Math.max(1, Math.min(THREADS_AT_MOST, Math.floor(availableParallelism() / Math.max(1, running))));

/** A kind's work, whichever kind it is. */
type AnyRun = Run<OperationKind>;
interface BadEnd {
  event: OperationEvent;
  problem: Problem;
}

/** What the engine works with. */
export interface Workplace {
  acting: Acting;
  link: DeviceLink;
  log: Log;
  runs: Runs;
  /** An operation is further than it was. */
  further: (operationId: string) => void;
  /** How long work waits for a device that left, or that must be unlocked. */
  waitForDeviceMs: () => Promise<number>;
  /** What somebody has in hand in a look-in. @throws Failure `look-in-over` */
  inHand: (lookIn: string) => Promise<Picked>;
}

/** What work has in memory alone. */
type Held = 'password' | 'packagePassword' | 'fromFolder';

/**
 * Does long operations, each a durable row that this process holds by a lease. What a process that is gone has left
 * behind is put right by the next one, and so is what passes its deadline.
 */
export class Runner {
  /** Names this process in leases. */
  readonly #owner = randomUUID();
  readonly #place: Workplace;
  readonly #remains: Remains;
  readonly #running = new Map<
    string,
    { abort: AbortController; session: DeviceSession | null; ended: Promise<void> }
  >();
  readonly #closing = new AbortController();

  constructor(place: Workplace) {
    this.#place = place;
    this.#remains = { db: place.acting.db, link: place.link };
  }

  get #db() {
    return this.#place.acting.db;
  }

  #now(): Date {
    return this.#place.acting.clock.now();
  }

  /** The orders that are about running operations. */
  orders(): Handled[] {
    return [
      handled(startOrder, async ({ id, ...passwords }) => {
        await this.#start(id, passwords);
        return {};
      }),
      handled(stopOrder, async ({ id }) => {
        await this.#stop(id);
        return {};
      }),
      handled(pauseOrder, async ({ id, paused }) => {
        this.#running.get(id)?.session?.pause(paused);
        return {};
      }),
    ];
  }

  /** Takes up a row that the server has written. @throws Failure `not-found` when there is none to take up. */
  async #start(id: string, passwords: Record<Held, string>) {
    const now = this.#now();
    const state = 'running';
    const [claimed] = await this.#db
      .update(operations)
      .set({
        state,
        deadline: deadlineOf(state, now),
        leaseOwner: this.#owner,
        leaseUntil: this.#leaseEnd(),
      })
      .where(
        and(eq(operations.id, id), eq(operations.state, 'ordered'), isNull(operations.leaseOwner)),
      );
    if (claimed.affectedRows !== 1) throw new Failure('not-found');
    const row = await operationRow(this.#db, id);
    const abort = new AbortController();
    const running = { abort, session: null, ended: Promise.resolve() };
    this.#running.set(id, running);
    running.ended = whileHeld(passwords, (held) => this.#run(row, held, abort)).finally(() =>
      this.#running.delete(id),
    );
  }

  /** Asks work to stop. What is not running here at all is ended without it. */
  async #stop(id: string): Promise<void> {
    const known = this.#running.get(id);
    if (known) known.abort.abort(new Failure('work-stopped'));
    else await this.#giveUp(id);
  }

  /** Ends work whatever it still does: nobody else would. */
  async #giveUp(id: string): Promise<void> {
    const row = await operationRow(this.#db, id);
    await this.#end(row, { event: 'stop', problem: problemFor(row.kind, problem('work-stopped')) });
  }

  /** Stops everything that runs, and waits until it has been recorded, as long as that makes sense. */
  async close(): Promise<void> {
    const all = [...this.#running.values()];
    for (const { abort } of all) abort.abort(new Failure('work-interrupted'));
    const late = setTimeout(() => this.#closing.abort(), CLOSE_AT_MOST_MS);
    await Promise.race([
      Promise.all(all.map(({ ended }) => ended)),
      once(this.#closing.signal, 'abort'),
    ]);
    clearTimeout(late);
    this.#closing.abort();
  }

  /**
   * Puts right what was left behind: by work processes before this one (there is only one at a time, the socket sees to
   * that), by a server that wrote a row and died before it gave the order, or by whoever was to leave a state in time.
   */
  async recover(): Promise<void> {
    const now = this.#now();
    const left = await this.#db
      .select()
      .from(operations)
      .where(
        and(
          inArray(operations.state, activeStates),
          ne(operations.state, 'ordered'),
          or(
            isNull(operations.leaseOwner),
            ne(operations.leaseOwner, this.#owner),
            // Also this process's own: what it does not know any more, nobody renews.
            lt(operations.leaseUntil, now),
          ),
        ),
      );
    for (const kept of left) {
      if (this.#running.has(kept.id)) continue;
      await this.#eachByItself(kept.id, async () => {
        const row = rowOf(kept);
        this.#place.log.warn({ operation: row.id, kind: row.kind }, 'operation was cut off');
        await this.#end(row, await this.#whatBecameOf(row));
      });
    }
    const late = await this.#db
      .select({ id: operations.id, state: operations.state })
      .from(operations)
      .where(
        and(
          inArray(operations.state, activeStates),
          isNotNull(operations.deadline),
          lte(operations.deadline, now),
        ),
      );
    for (const { id, state } of late) {
      this.#place.log.warn({ operation: id, state }, 'operation passed its deadline');
      await this.#eachByItself(id, () => this.#late(id, state));
    }
  }

  async #late(id: string, state: OperationState): Promise<void> {
    const event = deadlines[state]?.then;
    if (event === 'ask-stop') await this.#askToStop(id);
    else if (event === 'stop') await this.#outOfTime(id);
    else if (event) {
      const row = await operationRow(this.#db, id);
      await this.#end(row, { event, problem: problemFor(row.kind, problem('work-interrupted')) });
    }
  }

  /** One that nobody can make out keeps no other from being put right. */
  async #eachByItself(operation: string, put: () => Promise<void>): Promise<void> {
    try {
      await put();
    } catch (error) {
      if (isDatabaseAway(error)) throw error;
      this.#place.log.error(
        { operation, error: describeError(error) },
        'it could not be put right',
      );
    }
  }

  async #askToStop(id: string): Promise<void> {
    await unitOfWork(this.#place.acting, async (unit) => {
      await unit.tx
        .update(operations)
        .set({ state: 'stopping', deadline: deadlineOf('stopping', unit.now) })
        .where(and(eq(operations.id, id), eq(operations.state, 'paused')));
      await tellOf(unit, id);
    });
    await this.#stop(id);
  }

  async #outOfTime(id: string): Promise<void> {
    this.#running.get(id)?.abort.abort(new Failure('work-stopped'));
    this.#running.delete(id);
    await this.#giveUp(id);
  }

  /**
   * Work that was committed before the record was written is whole: only the record is missing. Of any other, what was
   * taken stays where it is, and it can go on where its kind can.
   */
  async #whatBecameOf(row: AnyRow): Promise<Ending | BadEnd> {
    const committed = await this.#committed(row);
    if (committed) return committed;
    // A device may still wait for a reader that is gone; when it is gone too, there is nobody to tell.
    const how = await this.#of(row);
    await how.abandon?.(row, this.#remains).catch(() => undefined);
    return { event: 'lose', problem: problemFor(row.kind, problem('work-interrupted')) };
  }

  /** How work ends that was decided on its medium, whatever happened after; null where none was, or nobody can tell now. */
  async #committed(row: AnyRow): Promise<Ending | null> {
    try {
      const how = await this.#of(row);
      return (await how.recover?.(row, this.#remains)) ?? null;
    } catch (error) {
      if (error instanceof Failure) return null;
      throw error;
    }
  }

  #benchWorks(): boolean {
    return [...this.#running.values()].some(({ session }) => session?.isAtWork);
  }

  #of({ kind }: AnyRow): Promise<AnyRun> {
    return this.#place.runs[kind]();
  }

  async #run(
    row: AnyRow,
    passwords: Pick<Job<OperationKind>, Held>,
    abort: AbortController,
  ): Promise<void> {
    const { link, log, acting, further, waitForDeviceMs } = this.#place;
    const renew = setInterval(() => void this.#renew(row.id, abort), RENEW_MS);
    const progress = new Progress(row.phase, async (snapshot) => {
      await this.#db
        .update(operations)
        .set(snapshot)
        .where(and(eq(operations.id, row.id), eq(operations.leaseOwner, this.#owner)));
      further(row.id);
    });
    const wait = await waitForDeviceMs();
    const session = new DeviceSession(link, row.deviceId, progress, abort.signal, wait);
    const known = this.#running.get(row.id);
    if (known) known.session = session;
    const job: Job<OperationKind> = {
      operationId: row.id,
      acting: { ...acting, actor: inTheNameOf(row.startedBy) },
      startedBy: row.startedBy,
      deviceId: row.deviceId,
      archiveId: row.archiveId,
      backupId: row.backupId,
      ticketId: row.ticketId,
      input: row.input,
      ...passwords,
      db: this.#db,
      link,
      session,
      progress,
      giveWay: () =>
        whileBenchWorks(
          () => this.#benchWorks(),
          () => progress.rest(),
          abort.signal,
        ),
      inHand: (lookIn) => this.#place.inHand(lookIn),
      holding: (locks, work) => whileHolding(this.#db, row.id, locks, work),
      threads: fairShare(this.#running.size),
      signal: abort.signal,
      log: log.child({ operation: row.id }),
      saveInput: async (input) => {
        await this.#onceAnswered(abort.signal, () =>
          this.#db
            .update(operations)
            .set({ input: versioned(row.kind, input) })
            .where(eq(operations.id, row.id)),
        );
        Object.assign(row, { input });
      },
    };
    try {
      const how = await this.#of(row);
      const ending = await how.run(job);
      await progress.flushed();
      await this.#end(row, ending);
    } catch (error) {
      await progress.flushed();
      const cause: unknown = abort.signal.aborted
        ? abort.signal.reason
        : databaseFailure(linkFailure(error));
      const found = problemOf(cause);
      if (found.code === 'unexpected')
        log.error({ operation: row.id, error: describeError(error) }, 'operation failed');
      const event = eventsOf[found.code] ?? 'fail';
      // What was decided on the medium before it went wrong is done, whoever is told otherwise.
      const committed = await this.#committed(row).catch(() => null);
      await this.#end(row, committed ?? { event, problem: problemFor(row.kind, found) });
    } finally {
      clearInterval(renew);
    }
  }

  /**
   * Writes what the work needs on record before it may go on. A database that went away is started again by whoever started
   * it: work of hours is not given up for that.
   */
  async #onceAnswered(signal: AbortSignal, write: () => Promise<unknown>): Promise<void> {
    const until = performance.now() + DATABASE_AWAY_AT_MOST_MS;
    const isAway = (error: Error) => isDatabaseAway(error) && performance.now() <= until;
    const backoff = new ExponentialBackoff(tryAgain);
    await retry(handleWhen(isAway), { backoff }).execute(write, signal);
  }

  /** Ends an operation. Tries until that is recorded, or this process ends: the next one finds out then. */
  async #end(row: AnyRow, how: Ending | BadEnd): Promise<void> {
    const record = async () => {
      try {
        await this.#recordEnd(row, how);
      } catch (error) {
        this.#place.log.error(
          { operation: row.id, error: describeError(error) },
          'the end of an operation could not be recorded, and is tried again',
        );
        throw error;
      }
    };
    const backoff = new ExponentialBackoff(tryAgain);
    await retry(handleAll, { backoff })
      .execute(record, this.#closing.signal)
      .catch(() => undefined);
  }

  /** Writes the end, and what belongs to it, in one unit of work. */
  async #recordEnd(row: AnyRow, how: Ending | BadEnd): Promise<void> {
    const well = 'result' in how;
    const acting = { ...this.#place.acting, actor: inTheNameOf(row.startedBy) };
    await unitOfWork(acting, async (unit) => {
      const [now] = await unit.tx
        .select({ state: operations.state })
        .from(operations)
        .where(eq(operations.id, row.id))
        .for('update');
      const state = now && afterOperationEvent(now.state, well ? 'finish' : how.event);
      if (!state) return;
      await unit.tx
        .update(operations)
        .set({
          state,
          deadline: null,
          endedAt: unit.now,
          leaseOwner: null,
          leaseUntil: null,
          needs: null,
          retryable: well ? (how.retryable ?? 0) : 0,
          result: well ? versioned(row.kind, how.result) : null,
          problem: well ? null : how.problem,
        })
        .where(eq(operations.id, row.id));
      await releaseLocks(unit.tx, row.id);
      // There is less room than there was, and what is regular was done or not.
      unit.changed('rack');
      unit.changed('schedule');
      if (well) await how.record?.(unit);
      unit.note({
        ticketId: row.ticketId,
        action: 'operation-ended',
        what: well ? how.what : `${definitionOf(row.kind).name}: ${how.problem.what}`,
      });
      await tellOf(unit, row.id);
    });
  }

  async #renew(id: string, abort: AbortController): Promise<void> {
    try {
      const [renewed] = await this.#db
        .update(operations)
        .set({ leaseUntil: this.#leaseEnd() })
        .where(and(eq(operations.id, id), eq(operations.leaseOwner, this.#owner)));
      if (renewed.affectedRows !== 1) abort.abort(new Failure('work-interrupted'));
    } catch (error) {
      this.#place.log.warn(
        { operation: id, error: describeError(error) },
        'a lease could not be renewed',
      );
    }
  }

  #leaseEnd(): Date {
    return new Date(this.#now().getTime() + LEASE_MS);
  }
}

/** How work ends that met one of these; with anything else it failed. */
const eventsOf: Partial<Record<Problem['code'], OperationEvent>> = {
  'work-stopped': 'stop',
  'work-interrupted': 'lose',
};

/** What became of the work, in the words of its kind. */
function problemFor(kind: OperationKind, found: Problem): Problem {
  const { ifCut, ifStopped } = definitionOf(kind);
  if (found.code === 'work-interrupted') return problem(found.code, ifCut);
  if (found.code === 'work-stopped') return problem(found.code, ifStopped);
  return found;
}
