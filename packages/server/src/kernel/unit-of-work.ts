import type { Change } from '@bright-cellar/contract';
import type { AuditAction } from '@bright-cellar/core';
import type { Database, Transaction } from '../database/connect.js';
import { outbox } from '../database/schema.js';
import type { Actor } from './actor.js';
import { append, holdNamed } from './audit.js';
import type { Clock } from './clock.js';

/** What a command acts with. */
export interface Acting {
  db: Database;
  actor: Actor;
  clock: Clock;
  projections: Projections;
  /** Called after each commit that changed something: whoever tells browsers need not wait to look. */
  committed: () => void;
  /** Told of each line that is on record now. */
  noted?: (action: AuditAction) => void;
}

/** What lists and sums keep of a thing, by its subject: made anew in the unit that changed it, and so never behind. */
export type Projections = Partial<
  Record<Change['subject'], (tx: Transaction, ref: string) => Promise<void>>
>;

/** A line for the record. `what` is a sentence for people; it holds no customer’s file names and no password. */
export interface AuditLine {
  action: AuditAction;
  what: string;
  ticketId?: string | null;
  /** Who did it, where that is not who acts. */
  technicianId?: string | null;
}

/** One transaction: its rows, its lines in the audit, and whom it concerns. All of it is there, or nothing. */
export class Unit {
  readonly tx: Transaction;
  readonly now: Date;
  readonly #actor: Actor;
  readonly #lines: AuditLine[] = [];
  readonly #changes = new Map<string, Change>();

  constructor(tx: Transaction, actor: Actor, now: Date) {
    this.tx = tx;
    this.#actor = actor;
    this.now = now;
  }

  note(line: AuditLine): void {
    this.#lines.push(line);
  }

  /** Screens that show this are to read it again. @param ref which one; empty for the list of them */
  changed(subject: Change['subject'], ref = ''): void {
    this.#changes.set(`${subject} ${ref}`, { subject, ref });
  }

  /** What it leaves on record. */
  get actions(): AuditAction[] {
    return this.#lines.map(({ action }) => action);
  }

  get hasChanges(): boolean {
    return this.#changes.size > 0;
  }

  async write(projections: Projections): Promise<void> {
    const entries = this.#lines.map(({ action, what, ticketId, technicianId }) => ({
      at: this.now,
      technicianId: technicianId === undefined ? this.#actor.technicianId : technicianId,
      ticketId: ticketId ?? null,
      action,
      what,
    }));
    await holdNamed(this.tx, entries);
    for (const { subject, ref } of this.#changes.values()) {
      if (ref !== '') await projections[subject]?.(this.tx, ref);
    }
    await append(this.tx, entries);
    if (this.#changes.size > 0) {
      await this.tx
        .insert(outbox)
        .values([...this.#changes.values()].map((change) => ({ at: this.now, ...change })));
    }
  }
}

/** Does all of it in one transaction; where the database takes that back because of others, all of it again. */
export async function unitOfWork<T>(
  { db, actor, clock, committed, noted, projections }: Acting,
  work: (unit: Unit) => Promise<T>,
): Promise<T> {
  const { done, hasChanges, actions } = await db.transaction(async (tx) => {
    const unit = new Unit(tx, actor, clock.now());
    const done = await work(unit);
    await unit.write(projections);
    return { done, hasChanges: unit.hasChanges, actions: unit.actions };
  });
  for (const action of actions) noted?.(action);
  if (hasChanges) committed();
  return done;
}

/** A line in the record that belongs to no change of the catalogue. */
export const noteOnly = (acting: Acting, line: AuditLine): Promise<void> =>
  unitOfWork(acting, async (unit) => unit.note(line));
