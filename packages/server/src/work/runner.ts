import { availableParallelism } from 'node:os';
import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import {
  changePassword,
  compareWithArchive,
  OpenArchive,
  settleArchive,
  withPassword,
  type Secret,
} from '@bright-cellar/archive';
import {
  afterOperationEvent,
  Failure,
  isChosen,
  operationNames,
  problem,
  problemOf,
  type OperationEvent,
  type OperationKind,
  type Problem,
} from '@bright-cellar/core';
import { DeviceLink, type Entry } from '@bright-cellar/device-link';
import { and, eq, isNull, lt, lte, ne, or } from 'drizzle-orm';
import type { z } from 'zod';
import { databaseFailure, isDatabaseAway, type Database } from '../database/connect.js';
import { operationLocks, operations } from '../database/schema.js';
import { whileHeld } from '../held-password.js';
import { describeError, type Log } from '../log.js';
import { noteAudit } from '../services/audit.js';
import { Attendance } from './attend.js';
import { backupEnding, takeBackup } from './backup.js';
import { changeCopy, copyFolder, settleCopyChanges, withdrawFromCopy } from './copy-changes.js';
import { deviceItems } from './device-items.js';
import { eraseDevice } from './erase.js';
import { extractFromDevice } from './extract/extract.js';
import type { OperationInput } from './inputs.js';
import type { Ending, Job } from './job.js';
import { linkFailure } from './link-failures.js';
import { measure } from './measure.js';
import { exportBackup, importBackup, importEnding } from './packages.js';
import { Progress } from './progress.js';
import type { changePasswordSchema, ComparedDevice, compareSchema, Measured } from './protocol.js';
import { proveBackup } from './prove.js';
import { restoreBackup } from './restore.js';

const LEASE_MS = 15_000;
const RENEW_MS = 5_000;
/** Work that was asked to stop and has not by then is given up: its row ends, whatever it still does. */
const STOP_AT_MOST_MS = 60_000;
/** An end that cannot be recorded is tried again, less and less often. */
const TRY_AGAIN_MS = { first: 250, most: 5_000 };
/** Work waits so long for a database that went away. */
const DATABASE_AWAY_AT_MOST_MS = 120_000;
/** When this process ends, what cannot be recorded by then is left to the next one. */
const CLOSE_AT_MOST_MS = 10_000;

type OperationRow = typeof operations.$inferSelect;

const work = {
  backup: takeBackup,
  prove: proveBackup,
  restore: restoreBackup,
  erase: eraseDevice,
  export: exportBackup,
  import: importBackup,
  extract: extractFromDevice,
} as Record<OperationKind, (job: Job<OperationInput>) => Promise<Ending>>;

/** One piece of work uses two cores at most: one reads and seals faster than any cable. */
const THREADS_AT_MOST = 2;

/** Threads for a piece of work that begins beside others: each has its share of the cores, and one at least. */
const fairShare = (running: number): number =>
  Math.max(1, Math.min(THREADS_AT_MOST, Math.floor(availableParallelism() / Math.max(1, running))));

/**
 * Does long operations, each a durable row that this process holds by a lease. What a process that
 * is gone has left behind is put right when the next one starts.
 */
export class Runner {
  /** Names this process in leases. */
  readonly #owner = randomUUID();
  readonly #db: Database;
  readonly #link: DeviceLink;
  readonly #log: Log;
  readonly #changed: (operationId: string) => void;
  readonly #running = new Map<
    string,
    { abort: AbortController; attendance: Attendance | null; ended: Promise<void> }
  >();
  readonly #waitForDeviceMs: number;
  readonly #closing = new AbortController();

  /** @param waitForDeviceMs how long a backup waits for a device that left, or that must be unlocked */
  constructor(
    db: Database,
    link: DeviceLink,
    log: Log,
    changed: (operationId: string) => void,
    waitForDeviceMs: number,
  ) {
    this.#waitForDeviceMs = waitForDeviceMs;
    this.#db = db;
    this.#link = link;
    this.#log = log;
    this.#changed = changed;
  }

  /** Takes up a row that the server has written. @throws Failure `not-found` when there is none to take up. */
  async start(id: string, password: string, packagePassword: string): Promise<void> {
    const [claimed] = await this.#db
      .update(operations)
      .set({ leaseOwner: this.#owner, leaseUntil: this.#leaseEnd() })
      .where(
        and(eq(operations.id, id), eq(operations.state, 'running'), isNull(operations.leaseOwner)),
      );
    if (claimed.affectedRows !== 1) throw new Failure('not-found');
    const [row] = await this.#db.select().from(operations).where(eq(operations.id, id));
    if (!row) throw new Failure('not-found');
    const abort = new AbortController();
    const running = { abort, attendance: null, ended: Promise.resolve() };
    this.#running.set(id, running);
    running.ended = whileHeld({ password, packagePassword }, (held) =>
      this.#run(row, held, abort),
    ).finally(() => this.#running.delete(id));
  }

  /** What a few entries of a device would take on a rack, and how long its link takes for them. */
  async measure(device: string, entries: readonly Entry[]): Promise<Measured> {
    return measure(this.#link, device, entries);
  }

  pause(id: string, paused: boolean): void {
    this.#running.get(id)?.attendance?.pause(paused);
  }

  /** What of a device an archive has as it is, and what would be sent. */
  async compare(order: z.infer<typeof compareSchema>): Promise<ComparedDevice> {
    const { folder, password, device, choice } = order;
    const items = async function* (link: DeviceLink) {
      for await (const { entry, item } of deviceItems(link, device)) {
        if (isChosen(choice, entry)) yield { ...item, id: entry.id };
      }
    };
    const ids: string[] = [];
    const compared = await compareWithArchive(
      folder,
      withPassword(password),
      items(this.#link),
      ({ id }) => ids.push(id),
    );
    return { ...compared, ids };
  }

  /** Gives a copy another password, whoever opens it. @throws Failure `wrong-password`, `archive-in-use`, `archive-not-here`. */
  async changePassword(
    order: Omit<z.infer<typeof changePasswordSchema>, 'password'>,
    secret: Secret,
  ): Promise<void> {
    const { copyId, newPassword, change } = order;
    const archive = await OpenArchive.open(await copyFolder(this.#db, copyId), secret);
    try {
      await changeCopy(this.#db, copyId, change, (beforeDeciding) =>
        changePassword(archive, newPassword, beforeDeciding),
      );
    } finally {
      await archive.close();
    }
  }

  /** Takes the shop's key out of a copy, where the customer took their consent back. */
  async withdrawEscrow(copyId: string): Promise<void> {
    await withdrawFromCopy(this.#db, copyId);
  }

  /** Asks work to stop. What does not in good time, or is not running here at all, is ended without it. */
  async stop(id: string): Promise<void> {
    const known = this.#running.get(id);
    if (!known) return this.#endStray(id);
    known.abort.abort(new Failure('work-stopped'));
    const giveUp = setTimeout(() => {
      if (this.#running.get(id) !== known) return;
      this.#log.error({ operation: id }, 'work did not stop, and is given up');
      this.#running.delete(id);
      void this.#endStray(id);
    }, STOP_AT_MOST_MS);
    void known.ended.finally(() => clearTimeout(giveUp));
  }

  async #endStray(id: string): Promise<void> {
    const [row] = await this.#db.select().from(operations).where(eq(operations.id, id));
    if (row?.state !== 'running') return;
    const found = problem('work-stopped');
    await this.#end(row, { event: 'stop', problem: problemFor(row.kind, found) });
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
   * Puts right what was left behind: by work processes before this one (there is only one at a time,
   * the socket sees to that), or by a server that wrote a row and died before it gave the order.
   * @param olderThanMs leaves alone what was written more recently and may still be ordered.
   */
  async recover(olderThanMs: number): Promise<void> {
    await settleCopyChanges(this.#db);
    const left = await this.#db
      .select()
      .from(operations)
      .where(
        and(
          eq(operations.state, 'running'),
          or(
            isNull(operations.leaseOwner),
            ne(operations.leaseOwner, this.#owner),
            // Also this process's own: what it does not know any more, nobody renews.
            lt(operations.leaseUntil, new Date()),
          ),
          lte(operations.startedAt, new Date(Date.now() - olderThanMs)),
        ),
      );
    for (const row of left) {
      if (this.#running.has(row.id)) continue;
      this.#log.warn({ operation: row.id, kind: row.kind }, 'operation was cut off');
      await this.#end(row, await this.#whatBecameOf(row));
    }
  }

  /**
   * A backup that was committed before the record was written is whole: only the record is missing. Of any
   * other, what was taken stays on the rack, and it can go on.
   */
  async #whatBecameOf(
    row: OperationRow,
  ): Promise<Ending | { event: OperationEvent; problem: Problem }> {
    const { input } = row;
    const committed = await this.#committedEnding(row);
    if (committed) return committed;
    if (input.kind === 'backup') {
      // The device still waits for a reader that is gone; when it is gone too, there is nobody to tell.
      await this.#link.endBackup(row.deviceId ?? '').catch(() => undefined);
    }
    return { event: 'lose', problem: interruptedProblem(row.kind) };
  }

  /** How work ends whose backup was decided on its medium, whatever happened after; null where none was. */
  async #committedEnding(row: OperationRow): Promise<Ending | null> {
    const { input } = row;
    if ((input.kind !== 'backup' && input.kind !== 'import') || !input.committing) return null;
    const { backup } = input.committing.committed;
    try {
      const folder =
        input.kind === 'backup' ? input.folder : await copyFolder(this.#db, input.copyId);
      if (!(await settleArchive(folder)).backups.includes(backup)) return null;
    } catch (error) {
      if (error instanceof Failure) return null;
      throw error;
    }
    const job = { operationId: row.id, startedBy: row.startedBy, ticketId: row.ticketId };
    return input.kind === 'backup'
      ? backupEnding(job, input, input.committing)
      : importEnding(job, input, input.committing);
  }

  async #run(
    row: OperationRow,
    passwords: Pick<Job<OperationInput>, 'password' | 'packagePassword'>,
    abort: AbortController,
  ): Promise<void> {
    const renew = setInterval(() => void this.#renew(row.id, abort), RENEW_MS);
    const progress = new Progress(row.phase, async (snapshot) => {
      await this.#db
        .update(operations)
        .set(snapshot)
        .where(and(eq(operations.id, row.id), eq(operations.leaseOwner, this.#owner)));
      this.#changed(row.id);
    });
    const attendance = new Attendance(
      this.#link,
      row.deviceId ?? '',
      progress,
      abort.signal,
      this.#waitForDeviceMs,
    );
    const known = this.#running.get(row.id);
    if (known) known.attendance = attendance;
    const job: Job<OperationInput> = {
      operationId: row.id,
      startedBy: row.startedBy,
      deviceId: row.deviceId,
      archiveId: row.archiveId,
      backupId: row.backupId,
      ticketId: row.ticketId,
      input: row.input,
      ...passwords,
      db: this.#db,
      link: this.#link,
      attendance,
      progress,
      threads: fairShare(this.#running.size),
      signal: abort.signal,
      log: this.#log.child({ operation: row.id }),
      saveInput: async (input) => {
        await this.#onceAnswered(abort.signal, () =>
          this.#db.update(operations).set({ input }).where(eq(operations.id, row.id)),
        );
        row.input = input;
      },
    };
    try {
      const ending = await work[row.kind](job);
      await progress.settled();
      await this.#end(row, ending);
    } catch (error) {
      await progress.settled();
      const cause: unknown = abort.signal.aborted
        ? abort.signal.reason
        : databaseFailure(linkFailure(error));
      const found = problemOf(cause);
      if (found.code === 'unexpected')
        this.#log.error({ operation: row.id, error: describeError(error) }, 'operation failed');
      const event =
        found.code === 'work-stopped'
          ? 'stop'
          : found.code === 'work-interrupted'
            ? 'lose'
            : 'fail';
      // What was decided on the medium before it went wrong is a backup, whoever is told otherwise.
      const committed = await this.#committedEnding(row).catch(() => null);
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
    const until = Date.now() + DATABASE_AWAY_AT_MOST_MS;
    for (let wait = TRY_AGAIN_MS.first; ; wait = Math.min(wait * 2, TRY_AGAIN_MS.most)) {
      try {
        await write();
        return;
      } catch (error) {
        if (!isDatabaseAway(error) || Date.now() > until) throw error;
        await sleep(wait, undefined, { signal });
      }
    }
  }

  /** Ends an operation. Tries until that is recorded, or this process ends: the next one finds out then. */
  async #end(
    row: OperationRow,
    how: Ending | { event: OperationEvent; problem: Problem },
  ): Promise<void> {
    for (let wait = TRY_AGAIN_MS.first; ; wait = Math.min(wait * 2, TRY_AGAIN_MS.most)) {
      try {
        await this.#recordEnd(row, how);
        break;
      } catch (error) {
        this.#log.error(
          { operation: row.id, error: describeError(error) },
          'the end of an operation could not be recorded, and is tried again',
        );
        if (this.#closing.signal.aborted) return;
        await sleep(wait, undefined, { signal: this.#closing.signal }).catch(() => undefined);
      }
    }
    this.#changed(row.id);
  }

  /** Writes the end, and what belongs to it, in one transaction. */
  async #recordEnd(
    row: OperationRow,
    how: Ending | { event: OperationEvent; problem: Problem },
  ): Promise<void> {
    const well = 'result' in how;
    const state = afterOperationEvent('running', well ? 'finish' : how.event);
    if (!state) return;
    await this.#db.transaction(async (tx) => {
      const [updated] = await tx
        .update(operations)
        .set({
          state,
          paused: false,
          endedAt: new Date(),
          leaseOwner: null,
          leaseUntil: null,
          needs: null,
          result: well ? how.result : null,
          problem: well ? null : how.problem,
        })
        .where(and(eq(operations.id, row.id), eq(operations.state, 'running')));
      if (updated.affectedRows !== 1) return;
      await tx.delete(operationLocks).where(eq(operationLocks.operationId, row.id));
      if (well) await how.record(tx);
      await noteAudit(tx, {
        technicianId: row.startedBy,
        ticketId: row.ticketId,
        action: 'operation-ended',
        what: well ? how.what : `${operationNames[row.kind]}: ${how.problem.what}`,
      });
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
      this.#log.warn(
        { operation: id, error: describeError(error) },
        'a lease could not be renewed',
      );
    }
  }

  #leaseEnd(): Date {
    return new Date(Date.now() + LEASE_MS);
  }
}

/** What became of the work, where that depends on its kind. */
function problemFor(kind: OperationKind, found: Problem): Problem {
  if (found.code === 'work-interrupted') return interruptedProblem(kind);
  if (found.code === 'work-stopped' && kind === 'backup') {
    return problem('work-stopped', {
      safe: 'What was taken is kept on the rack; what was committed before is whole.',
      next: 'Let the backup go on, or give it up.',
    });
  }
  return found;
}

function interruptedProblem(kind: OperationKind): Problem {
  if (kind === 'restore') {
    return problem('work-interrupted', {
      safe: 'The backup on the rack is unchanged. The device may hold an incomplete restore.',
      next: 'If the device is not at its welcome screen, erase it; then restore again.',
    });
  }
  if (kind === 'erase') {
    return problem('work-interrupted', {
      safe: 'The device’s proven backup is unchanged.',
      next: 'Look at the device’s own screen to see whether it is empty.',
    });
  }
  if (kind === 'backup') {
    return problem('work-interrupted', {
      safe: 'What was taken is kept on the rack; what was committed before is whole.',
      next: 'Let the backup go on.',
    });
  }
  return problem('work-interrupted');
}
