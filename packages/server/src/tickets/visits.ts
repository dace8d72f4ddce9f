import {
  activeStates,
  agreedFrom,
  failedCount,
  Failure,
  type VisitFacts,
  backupIdSchema,
  staysBehind,
  type OperationKind,
} from '@bright-cellar/core';
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { nameOf } from '../database/columns.js';
import {
  backups,
  customers,
  devices,
  operations,
  technicians,
  ticketSteps,
  tickets,
  type Versioned,
} from '../database/schema.js';
import { agreementsOf } from '../agreements/index.js';
import { knownOfBackups } from '../archives/index.js';
import type { BenchWatch } from '../bench/index.js';
import { inputOf, resultOf } from '../engine/index.js';
import type { Shop } from '../shop.js';

/** Tickets with who and what they are about. */
export function visitsQuery(db: Database) {
  return db
    .select({
      ticket: tickets,
      customer: customers,
      device: devices,
      openedBy: nameOf(technicians),
    })
    .from(tickets)
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .leftJoin(technicians, eq(technicians.id, tickets.openedBy));
}
export type Visit = Awaited<ReturnType<typeof visitsQuery>>[number];

/** What lists show of a ticket, and its run sheet rests on: a page of them is to be read with every change on the bench. */
export function listedQuery(db: Database) {
  const { id, number, reason, openedAt, promisedAt } = tickets;
  return db
    .select({
      ticket: { id, number, reason, openedAt, promisedAt },
      customer: { name: customers.name },
      device: devices,
    })
    .from(tickets)
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId));
}
export type Listed = Awaited<ReturnType<typeof listedQuery>>[number];

/** What work on a ticket starts from. @throws Failure `not-found` */
export async function ticketForWork(db: Database, number: string): Promise<Visit> {
  const [visit] = await visitsQuery(db).where(eq(tickets.number, number));
  if (!visit) throw new Failure('not-found');
  return visit;
}

/** What a visit's run sheet rests on. */
export interface Evidence {
  archiveIds: string[];
  /** The newest. */
  backup: Taken | null;
  /** The newest first. */
  work: Work[];
  /** What was said about agreements, the oldest first. */
  said: Said[];
  words: VisitFacts['words'];
}
type Taken = Awaited<ReturnType<typeof takenOn>>[number];
type Work = Awaited<ReturnType<typeof workOn>>[number];
type Said = Omit<Awaited<ReturnType<typeof agreementsOf>>[number], 'ticketId'>;

/** The evidence of several visits, by their tickets' ids, in as many questions to the database as for one. */
export async function evidenceOf(
  db: Database,
  ids: readonly string[],
): Promise<(visit: Listed) => Evidence> {
  if (ids.length === 0) return () => nothingYet;
  // None waits for another: a page of tickets asks for sixty of each.
  const [taken, work, said, words] = await Promise.all([
    takenOn(db, ids),
    workOn(db, ids),
    agreementsOf(db, ids),
    wordsOf(db, ids),
  ]);
  return ({ ticket: { id } }) => {
    const own = taken.filter((b) => b.ticketId === id);
    return {
      archiveIds: [...new Set(own.map((b) => b.archiveId))],
      backup: own[0] ?? null,
      work: work.filter((o) => o.ticketId === id),
      said: said.filter((s) => s.ticketId === id).map(({ ticketId: _, ...s }) => s),
      words: Object.fromEntries(
        words
          .filter((w) => w.step.ticketId === id)
          .map(({ step: { step, state, reason, at }, by }) => [
            step,
            { state, reason, by, at: at.toISOString() },
          ]),
      ),
    };
  };
}

/** The backups of some tickets, the newest first, and what is known of each. */
async function takenOn(db: Database, ids: readonly string[]) {
  const taken = await db
    .select({
      id: backups.id,
      ticketId: backups.ticketId,
      archiveId: backups.archiveId,
      contentRevision: backups.contentRevision,
      items: backups.items,
      bytes: backups.bytes,
      failed: backups.failed,
      scope: backups.scope,
    })
    .from(backups)
    .where(and(inArray(backups.ticketId, [...ids]), isNull(backups.prunedIn)))
    .orderBy(desc(backups.takenAt));
  const known = await knownOfBackups(
    db,
    taken.map(({ id }) => id),
  );
  return taken.map((backup) => ({ ...backup, known: known(backup.id) }));
}

/** What was done and is being done on some tickets, the newest first. */
async function workOn(db: Database, ids: readonly string[]) {
  const rows = await db
    .select({
      ticketId: operations.ticketId,
      kind: operations.kind,
      state: operations.state,
      deviceName: operations.deviceName,
      input: operations.input,
      result: operations.result,
    })
    .from(operations)
    .where(inArray(operations.ticketId, [...ids]))
    .orderBy(desc(operations.startedAt))
    .limit(WORK_AT_MOST);
  return rows.map(({ kind, input, result, ...row }) => ({
    ...{ ...row, kind },
    restored: restoredBy(kind, input, result),
  }));
}
const WORK_AT_MOST = 1000;

/** What came onto which device, and what of it stayed behind; null of other work, and of what did not end well. */
function restoredBy(kind: OperationKind, input: Versioned, result: Versioned | null) {
  if (kind === 'restore') {
    const whole = resultOf(kind, result);
    return whole && { items: whole.items, stayed: 0, serial: inputOf(kind, input).serial };
  }
  if (kind !== 'cross') return null;
  const part = resultOf(kind, result);
  return (
    part && {
      items: part.items,
      stayed: part.report.reduce((sum, one) => sum + staysBehind(one), 0),
      serial: inputOf(kind, input).serial,
    }
  );
}

const nothingYet: Evidence = { archiveIds: [], backup: null, work: [], said: [], words: {} };

async function wordsOf(db: Database, ticketIds: readonly string[]) {
  return db
    .select({ step: ticketSteps, by: nameOf(technicians) })
    .from(ticketSteps)
    .leftJoin(technicians, eq(technicians.id, ticketSteps.by))
    .where(inArray(ticketSteps.ticketId, [...ticketIds]));
}

/** The facts that a run sheet is made of. */
export function factsOf(visit: Listed, evidence: Evidence, bench: BenchWatch): VisitFacts {
  const { backup, work } = evidence;
  const ended = (kind: Work['kind']) => work.find((o) => o.kind === kind && o.state === 'done');
  const last = work.find((o) => o.restored !== null && o.state === 'done');
  return {
    reason: visit.ticket.reason,
    agreed: agreedFrom(evidence.said),
    customerName: visit.customer.name,
    deviceSerial: visit.device.serial,
    device: bench.bySerial(visit.device.serial),
    running: work.filter((o) => activeStates.includes(o.state)).map((o) => o.kind),
    backup: backup && {
      id: backupIdSchema.parse(backup.id),
      deviceSerial: visit.device.serial,
      items: backup.items,
      bytes: backup.bytes,
      failedItems: failedCount(backup.failed),
      contentRevision: backup.contentRevision,
      everything: backup.scope.everything,
      provenAt: backup.known.provenAt ? new Date(backup.known.provenAt) : null,
      // What was proven of one copy stands, whatever became of another: that one is repaired.
      proofFailed: backup.known.damaged && backup.known.provenAt === null,
    },
    erased: ended('erase') !== undefined,
    restored: last?.restored
      ? {
          ...{ items: last.restored.items, stayed: last.restored.stayed },
          targetName: last.deviceName ?? 'the device',
        }
      : null,
    target: last?.restored ? bench.bySerial(last.restored.serial) : null,
    words: evidence.words,
  };
}

/** A ticket and the facts of its visit as they are now. @throws Failure `not-found` */
export async function visitFacts({ db, bench }: Pick<Shop, 'db' | 'bench'>, number: string) {
  const visit = await ticketForWork(db, number);
  const evidence = (await evidenceOf(db, [visit.ticket.id]))(visit);
  return { visit, evidence, facts: factsOf(visit, evidence, bench) };
}
