import {
  activeStates,
  agreedFrom,
  failedCount,
  Failure,
  knownOfBackup,
  type VisitFacts,
  backupIdSchema,
} from '@bright-cellar/core';
import type { Backup, Operation } from '@bright-cellar/contract';
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
} from '../database/schema.js';
import { agreementsOf } from '../agreements/index.js';
import { backupsOf } from '../archives/index.js';
import type { BenchWatch } from '../bench/index.js';
import { operationsWhere } from '../engine/index.js';
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

/** What work on a ticket starts from. @throws Failure `not-found` */
export async function ticketForWork(db: Database, number: string): Promise<Visit> {
  const [visit] = await visitsQuery(db).where(eq(tickets.number, number));
  if (!visit) throw new Failure('not-found');
  return visit;
}

/** What a visit's run sheet rests on. */
export interface Evidence {
  archiveIds: string[];
  backup: Backup | null;
  contentRevision: string;
  /** The newest first. */
  operations: Operation[];
  /** What was said about agreements, the oldest first. */
  said: Said[];
  words: VisitFacts['words'];
}
type Said = Omit<Awaited<ReturnType<typeof agreementsOf>>[number], 'ticketId'>;

/** The evidence of several visits, in as many questions to the database as for one. */
export async function evidenceOf(
  db: Database,
  visits: readonly Visit[],
): Promise<(visit: Visit) => Evidence> {
  if (visits.length === 0) return () => nothingYet;
  const ids = visits.map((v) => v.ticket.id);
  // None waits for another: a page of tickets asks for sixty of each.
  const [{ taken, described }, work, said, words] = await Promise.all([
    takenOn(db, ids),
    operationsWhere(db, inArray(operations.ticketId, ids)),
    agreementsOf(db, ids),
    wordsOf(db, ids),
  ]);
  return ({ ticket: { id, number } }) => {
    const own = taken.filter((b) => b.ticketId === id);
    return {
      archiveIds: [...new Set(own.map((b) => b.archiveId))],
      backup: described.find((b) => b.id === own[0]?.id) ?? null,
      contentRevision: own[0]?.contentRevision ?? '',
      operations: work.filter((o) => o.ticketNumber === number),
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

/** The backups of some tickets, the newest first; and all that is in their archives. */
async function takenOn(db: Database, ids: readonly string[]) {
  const taken = await db
    .select({
      id: backups.id,
      ticketId: backups.ticketId,
      archiveId: backups.archiveId,
      contentRevision: backups.contentRevision,
    })
    .from(backups)
    .where(and(inArray(backups.ticketId, [...ids]), isNull(backups.prunedIn)))
    .orderBy(desc(backups.takenAt));
  return { taken, described: await backupsOf(db, [...new Set(taken.map((b) => b.archiveId))]) };
}

const nothingYet: Evidence = {
  archiveIds: [],
  backup: null,
  contentRevision: '',
  operations: [],
  said: [],
  words: {},
};

async function wordsOf(db: Database, ticketIds: readonly string[]) {
  return db
    .select({ step: ticketSteps, by: nameOf(technicians) })
    .from(ticketSteps)
    .leftJoin(technicians, eq(technicians.id, ticketSteps.by))
    .where(inArray(ticketSteps.ticketId, [...ticketIds]));
}

/** The facts that a run sheet is made of. */
export function factsOf(visit: Visit, evidence: Evidence, bench: BenchWatch): VisitFacts {
  const { backup, operations } = evidence;
  const ended = (kind: Operation['kind']) =>
    operations.find((o) => o.kind === kind && o.state === 'done');
  const restored = ended('restore');
  const { provenAt, damaged } = knownOfBackup(backup?.proofs ?? []);
  return {
    reason: visit.ticket.reason,
    agreed: agreedFrom(evidence.said),
    customerName: visit.customer.name,
    deviceSerial: visit.device.serial,
    device: bench.bySerial(visit.device.serial),
    running: operations.filter((o) => activeStates.includes(o.state)).map((o) => o.kind),
    backup: backup && {
      id: backupIdSchema.parse(backup.id),
      deviceSerial: visit.device.serial,
      items: backup.items,
      bytes: backup.bytes,
      failedItems: failedCount(backup.failed),
      contentRevision: evidence.contentRevision,
      everything: backup.scope.everything,
      provenAt: provenAt ? new Date(provenAt) : null,
      // What was proven of one copy stands, whatever became of another: that one is repaired.
      proofFailed: damaged && provenAt === null,
    },
    erased: ended('erase') !== undefined,
    restored: restored?.result
      ? { items: restored.result.items, targetName: restored.deviceName ?? 'the device' }
      : null,
    words: evidence.words,
  };
}

/** A ticket and the facts of its visit as they are now. @throws Failure `not-found` */
export async function visitFacts({ db, bench }: Pick<Shop, 'db' | 'bench'>, number: string) {
  const visit = await ticketForWork(db, number);
  const evidence = (await evidenceOf(db, [visit]))(visit);
  return { visit, evidence, facts: factsOf(visit, evidence, bench) };
}
