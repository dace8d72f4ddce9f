import { availableParallelism } from 'node:os';
import { randomUUID } from 'node:crypto';
import { compareWithArchive, settleArchive, withPassword } from '@bright-cellar/archive';
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
import { and, eq, isNull, lte, ne, or } from 'drizzle-orm';
import type { z } from 'zod';
import type { Database } from '../database/connect.js';
import { operations } from '../database/schema.js';
import { describeError, type Log } from '../log.js';
import { noteAudit } from '../services/audit.js';
import { Attendance } from './attend.js';
import { backupEnding, takeBackup } from './backup.js';
import { deviceItems } from './device-items.js';
import { eraseDevice } from './erase.js';
import { extractFromDevice } from './extract/extract.js';
import type { OperationInput } from './inputs.js';
import type { Ending, Job } from './job.js';
import { linkFailure } from './link-failures.js';
import { measure } from './measure.js';
import { exportBackup, importBackup } from './packages.js';
import { Progress } from './progress.js';
import type { ComparedDevice, compareSchema, Measured } from './protocol.js';
import { proveBackup } from './prove.js';
import { restoreBackup } from './restore.js';

const LEASE_MS = 15_000;
const RENEW_MS = 5_000;

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
    running.ended = this.#run(row, { password, packagePassword }, abort).finally(() =>
      this.#running.delete(id),
    );
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

  stop(id: string): void {
    this.#running.get(id)?.abort.abort(new Failure('work-stopped'));
  }

  /** Stops everything that runs, and waits until it has been recorded. */
  async close(): Promise<void> {
    const all = [...this.#running.values()];
    for (const { abort } of all) abort.abort(new Failure('work-interrupted'));
    await Promise.all(all.map(({ ended }) => ended));
  }

  /**
   * Puts right what was left behind: by work processes before this one (there is only one at a time,
   * the socket sees to that), or by a server that wrote a row and died before it gave the order.
   * @param olderThanMs leaves alone what was written more recently and may still be ordered.
   */
  async recover(olderThanMs: number): Promise<void> {
    const left = await this.#db
      .select()
      .from(operations)
      .where(
        and(
          eq(operations.state, 'running'),
          or(isNull(operations.leaseOwner), ne(operations.leaseOwner, this.#owner)),
          lte(operations.startedAt, new Date(Date.now() - olderThanMs)),
        ),
      );
    for (const row of left) {
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
    if (input.kind === 'backup') {
      const committed = await settleArchive(input.folder).catch(() => [] as string[]);
      if (input.committing && committed.includes(input.committing.committed.backup)) {
        return backupEnding({ ...row, operationId: row.id }, input, input.committing);
      }
      // The device still waits for a reader that is gone; when it is gone too, there is nobody to tell.
      await this.#link.endBackup(row.deviceId ?? '').catch(() => undefined);
    }
    return { event: 'lose', problem: interruptedProblem(row.kind) };
  }

  async #run(
    row: OperationRow,
    passwords: { password: string; packagePassword: string },
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
        await this.#db.update(operations).set({ input }).where(eq(operations.id, row.id));
      },
    };
    try {
      const ending = await work[row.kind](job);
      await progress.settled();
      await this.#end(row, ending);
    } catch (error) {
      await progress.settled();
      const cause: unknown = abort.signal.aborted ? abort.signal.reason : linkFailure(error);
      const found = problemOf(cause);
      if (found.code === 'unexpected')
        this.#log.error({ operation: row.id, error: describeError(error) }, 'operation failed');
      const event =
        found.code === 'work-stopped'
          ? 'stop'
          : found.code === 'work-interrupted'
            ? 'lose'
            : 'fail';
      await this.#end(row, {
        event,
        problem: problemFor(row.kind, found),
      });
    } finally {
      clearInterval(renew);
    }
  }

  /** Ends an operation, and writes what belongs to its end, in one transaction. */
  async #end(
    row: OperationRow,
    how: Ending | { event: OperationEvent; problem: Problem },
  ): Promise<void> {
    const well = 'result' in how;
    const state = afterOperationEvent('running', well ? 'finish' : how.event);
    if (!state) return;
    try {
      await this.#db.transaction(async (tx) => {
        const [updated] = await tx
          .update(operations)
          .set({
            state,
            holds: null,
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
        if (well) await how.record(tx);
        await noteAudit(tx, {
          technicianId: row.startedBy,
          ticketId: row.ticketId,
          action: 'operation-ended',
          what: well ? how.what : `${operationNames[row.kind]}: ${how.problem.what}`,
        });
      });
    } catch (error) {
      // The row stays as it is, and recovery ends it from what is on the rack.
      this.#log.error(
        { operation: row.id, error: describeError(error) },
        'the end of an operation could not be recorded',
      );
    }
    this.#changed(row.id);
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
