import { randomUUID } from 'node:crypto';
import {
  agreedFrom,
  agreementNames,
  currentStep,
  doneProblem,
  Failure,
  runSheet,
  skipProblem,
  visitReasons,
  type Agreed,
  type AgreementKind,
  type DeviceFacts,
  type Step,
  type StepId,
  type VisitFacts,
} from '@bright-cellar/core';
import type {
  Backup,
  Customer,
  KnownVisits,
  NewTicket,
  Operation,
  Ticket,
  TicketRow,
} from '@bright-cellar/contract';
import { and, desc, eq, isNull, like, or, sql } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import {
  agreements,
  audit,
  backups,
  customers,
  devices,
  technicians,
  ticketSteps,
  tickets,
} from '../database/schema.js';
import { backupsOf, foundDamaged, knownDevice, presentArchiveOf, provenAt } from './archives.js';
import { noteAudit } from './audit.js';
import { rememberDevice, rememberTyped, type BenchWatch } from './bench.js';
import { operationsOfTicket } from './operations.js';

function baseQuery(db: Database) {
  return db
    .select({ ticket: tickets, customer: customers, device: devices, openedBy: technicians.name })
    .from(tickets)
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .innerJoin(technicians, eq(technicians.id, tickets.openedBy));
}
type Base = Awaited<ReturnType<typeof baseQuery>>[number];

interface Evidence {
  archiveIds: string[];
  backup: Backup | null;
  contentRevision: string;
  operations: Operation[];
  said: AgreementRow[];
  words: VisitFacts['words'];
}
type AgreementRow = Awaited<ReturnType<typeof agreementsOf>>[number];

/** What was said about agreements on a ticket, the oldest first. */
async function agreementsOf(db: Database, ticketId: string) {
  return db
    .select({
      kind: agreements.kind,
      given: agreements.given,
      days: agreements.days,
      by: technicians.name,
      at: agreements.at,
    })
    .from(agreements)
    .innerJoin(technicians, eq(technicians.id, agreements.by))
    .where(eq(agreements.ticketId, ticketId))
    .orderBy(agreements.id);
}

/** What the customer has agreed to by now. */
export async function agreedOf(db: Database, ticketId: string): Promise<Agreed> {
  return agreedFrom(await agreementsOf(db, ticketId));
}

async function wordsOf(db: Database, ticketId: string): Promise<VisitFacts['words']> {
  const rows = await db
    .select({ step: ticketSteps, by: technicians.name })
    .from(ticketSteps)
    .innerJoin(technicians, eq(technicians.id, ticketSteps.by))
    .where(eq(ticketSteps.ticketId, ticketId));
  return Object.fromEntries(
    rows.map(({ step: { step, state, reason, at }, by }) => [
      step,
      { state, reason, by, at: at.toISOString() },
    ]),
  );
}

async function evidenceOf(db: Database, ticketId: string): Promise<Evidence> {
  const rows = await db
    .select({
      id: backups.id,
      archiveId: backups.archiveId,
      contentRevision: backups.contentRevision,
    })
    .from(backups)
    .where(eq(backups.ticketId, ticketId))
    .orderBy(desc(backups.takenAt));
  const archiveIds = [...new Set(rows.map((r) => r.archiveId))];
  const [revision] = rows;
  const backup = (await backupsOf(db, archiveIds)).find((b) => b.id === revision?.id) ?? null;
  return {
    archiveIds,
    backup,
    contentRevision: revision?.contentRevision ?? '',
    operations: await operationsOfTicket(db, ticketId),
    said: await agreementsOf(db, ticketId),
    words: await wordsOf(db, ticketId),
  };
}

function factsOf(base: Base, evidence: Evidence, bench: BenchWatch): VisitFacts {
  const { backup, operations } = evidence;
  const ended = (kind: Operation['kind']) =>
    operations.find((o) => o.kind === kind && o.state === 'done');
  const restored = ended('restore');
  const at = backup && provenAt(backup);
  return {
    reason: base.ticket.reason,
    agreed: agreedFrom(evidence.said),
    customerName: base.customer.name,
    deviceSerial: base.device.serial,
    device: bench.bySerial(base.device.serial),
    running: operations.filter((o) => o.state === 'running').map((o) => o.kind),
    backup: backup && {
      id: backup.id,
      deviceSerial: base.device.serial,
      items: backup.items,
      bytes: backup.bytes,
      failedItems: backup.failed.reduce((sum, f) => sum + f.count, 0),
      contentRevision: evidence.contentRevision,
      everything: backup.scope.everything,
      provenAt: at ? new Date(at) : null,
      proofFailed: foundDamaged(backup),
    },
    erased: ended('erase') !== undefined,
    restored: restored?.result
      ? { items: restored.result.items, targetName: restored.deviceName ?? 'the device' }
      : null,
    words: evidence.words,
  };
}

function rowOf(base: Base, sheet: Step[]): TicketRow {
  return {
    number: base.ticket.number,
    customerName: base.customer.name,
    device: knownDevice(base.device),
    reason: base.ticket.reason,
    openedAt: base.ticket.openedAt.toISOString(),
    promisedAt: base.ticket.promisedAt?.toISOString() ?? null,
    step: currentStep(sheet),
  };
}

/** Open tickets, newest first. */
export async function listTickets(db: Database, bench: BenchWatch): Promise<TicketRow[]> {
  const rows = await baseQuery(db).where(isNull(tickets.closedAt)).orderBy(desc(tickets.openedAt));
  return Promise.all(
    rows.map(async (base) =>
      rowOf(base, runSheet(factsOf(base, await evidenceOf(db, base.ticket.id), bench))),
    ),
  );
}

/** @throws Failure `not-found` */
export async function ticketByNumber(
  db: Database,
  bench: BenchWatch,
  number: string,
): Promise<Ticket> {
  const [base] = await baseQuery(db).where(eq(tickets.number, number));
  if (!base) throw new Failure('not-found');
  const evidence = await evidenceOf(db, base.ticket.id);
  const facts = factsOf(base, evidence, bench);
  const sheet = runSheet(facts);
  const history = await db
    .select({ at: audit.at, by: technicians.name, what: audit.what })
    .from(audit)
    .leftJoin(technicians, eq(technicians.id, audit.technicianId))
    .where(eq(audit.ticketId, base.ticket.id))
    .orderBy(desc(audit.id));
  return {
    ...rowOf(base, sheet),
    customer: base.customer,
    agreed: facts.agreed,
    agreements: evidence.said.toReversed().map((a) => ({ ...a, at: a.at.toISOString() })),
    notes: base.ticket.notes,
    openedBy: base.openedBy,
    runSheet: sheet,
    berth: bench.bySerial(base.device.serial)?.berth ?? null,
    archiveIds: evidence.archiveIds,
    knownArchive: await presentArchiveOf(db, base.device.id),
    operations: evidence.operations,
    history: history.map((h) => ({ at: h.at.toISOString(), by: h.by ?? '', what: h.what })),
  };
}

/** What work on a ticket starts from. @throws Failure `not-found` */
export async function ticketForWork(db: Database, number: string): Promise<Base> {
  const [base] = await baseQuery(db).where(eq(tickets.number, number));
  if (!base) throw new Failure('not-found');
  return base;
}

/**
 * Opens a ticket for a device that is on the bench, or for one that is dead and was described. @returns its number.
 * @throws Failure `device-of-another` when it came with another customer before and nobody asked whose it is.
 */
export async function openTicket(
  db: Database,
  bench: BenchWatch,
  wanted: NewTicket,
  technicianId: string,
): Promise<string> {
  const deviceId =
    'deviceId' in wanted.device
      ? await rememberDevice(db, await bench.freshFacts(wanted.device.deviceId))
      : await rememberTyped(db, wanted.device);
  return db.transaction(async (tx) => {
    const customerId =
      'id' in wanted.customer ? wanted.customer.id : await addCustomer(tx, wanted.customer);
    await mustBeTheirs(tx, deviceId, customerId, wanted.otherOwnerConfirmed);
    const id = randomUUID();
    const number = await nextNumber(tx);
    const now = new Date();
    await tx.insert(tickets).values({
      id,
      number,
      customerId,
      deviceId,
      reason: wanted.reason,
      promisedAt: wanted.promisedAt ? new Date(wanted.promisedAt) : null,
      notes: wanted.notes,
      openedBy: technicianId,
      openedAt: now,
    });
    const { backup, lookIn, escrow, keepDays } = wanted.agreed;
    const said = { ticketId: id, by: technicianId, at: now };
    await tx.insert(agreements).values([
      { ...said, kind: 'backup', given: backup, days: null },
      { ...said, kind: 'look-in', given: lookIn, days: null },
      { ...said, kind: 'escrow', given: escrow, days: null },
      { ...said, kind: 'keep', given: keepDays > 0, days: keepDays > 0 ? keepDays : null },
    ]);
    const agreed = [
      backup ? 'backup agreed' : 'no backup agreed',
      ...(lookIn ? ['looking inside agreed'] : []),
      ...(escrow ? ['escrow agreed'] : []),
      keepDays > 0 ? `kept ${keepDays} days` : 'not kept',
    ].join(', ');
    await noteAudit(tx, {
      technicianId,
      ticketId: id,
      action: 'ticket-opened',
      what: `Ticket opened: ${visitReasons[wanted.reason].toLowerCase()}; ${agreed}.`,
    });
    return number;
  });
}

/** A device that came on another customer's ticket is questioned: it may have been sold, or be the wrong one. */
async function mustBeTheirs(
  tx: Transaction,
  deviceId: string,
  customerId: string,
  confirmed: boolean,
): Promise<void> {
  if (confirmed) return;
  const [last] = await tx
    .select({ customerId: tickets.customerId, name: customers.name, number: tickets.number })
    .from(tickets)
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .where(eq(tickets.deviceId, deviceId))
    .orderBy(desc(tickets.openedAt))
    .limit(1);
  if (!last || last.customerId === customerId) return;
  throw new Failure('device-of-another', {
    what: `This device came with ${last.name} before, on ticket ${last.number}.`,
  });
}

/** What the shop knows of a device: its earlier visits, and whose it was at the last one. */
export async function knownVisits(db: Database, facts: DeviceFacts): Promise<KnownVisits> {
  const rows = await baseQuery(db)
    .where(eq(devices.serial, facts.serial))
    .orderBy(desc(tickets.openedAt));
  const [last] = rows;
  return {
    device: last ? knownDevice(last.device) : null,
    customer: last ? customerView(last.customer) : null,
    visits: rows.map(({ ticket, customer }) => ({
      number: ticket.number,
      customerName: customer.name,
      openedAt: ticket.openedAt.toISOString(),
      reason: ticket.reason,
    })),
  };
}

const customerView = ({ id, name, phone, email }: Customer): Customer => ({
  id,
  name,
  phone,
  email,
});

/** Year, month, and a number that counts through the month: digits only, so that a scanner can type it. */
async function nextNumber(tx: Transaction): Promise<string> {
  const month = new Date().toISOString().slice(2, 7).replace('-', '');
  const [last] = await tx
    .select({ number: sql<string | null>`max(${tickets.number})` })
    .from(tickets)
    .where(like(tickets.number, `${month}%`))
    .for('update');
  const next = last?.number ? Number(last.number.slice(month.length)) + 1 : 1;
  return month + String(next).padStart(4, '0');
}

export async function noteAgreement(
  db: Database,
  number: string,
  said: { kind: AgreementKind; given: boolean; days: number | null },
  technicianId: string,
): Promise<void> {
  const { ticket } = await ticketForWork(db, number);
  await db.transaction(async (tx) => {
    await tx
      .insert(agreements)
      .values({ ...said, ticketId: ticket.id, by: technicianId, at: new Date() });
    const days = said.days === null ? '' : ` for ${said.days} days`;
    await noteAudit(tx, {
      technicianId,
      ticketId: ticket.id,
      action: 'agreement',
      what: `${agreementNames[said.kind]}${days}: ${said.given ? 'the customer agreed' : 'the customer did not agree, or took it back'}.`,
    });
  });
}

async function visitFacts(db: Database, bench: BenchWatch, number: string) {
  const base = await ticketForWork(db, number);
  return { base, facts: factsOf(base, await evidenceOf(db, base.ticket.id), bench) };
}

/** Somebody's word about a step, where the run sheet's rules allow it. @throws Failure `step-refused` */
export async function settleStep(
  db: Database,
  bench: BenchWatch,
  number: string,
  step: StepId,
  said: { state: 'done' | 'skipped' | 'open'; reason: string },
  technicianId: string,
): Promise<void> {
  const { base, facts } = await visitFacts(db, bench, number);
  const ticketId = base.ticket.id;
  if (said.state !== 'open') {
    const refusal = said.state === 'done' ? doneProblem(facts, step) : skipProblem(facts, step);
    if (refusal) throw new Failure(refusal.code, refusal);
    if (said.state === 'skipped' && said.reason === '') {
      throw new Failure('step-refused', {
        what: 'A step is skipped with a reason.',
        next: 'Say in a few words why.',
      });
    }
  }
  await db.transaction(async (tx) => {
    await tx
      .delete(ticketSteps)
      .where(and(eq(ticketSteps.ticketId, ticketId), eq(ticketSteps.step, step)));
    if (said.state !== 'open') {
      await tx.insert(ticketSteps).values({
        ticketId,
        step,
        state: said.state,
        reason: said.reason,
        by: technicianId,
        at: new Date(),
      });
    }
    const done = { done: 'done', skipped: 'skipped', open: 'opened again' }[said.state];
    const title = runSheet(facts).find((s) => s.id === step)?.title ?? step;
    await noteAudit(tx, {
      technicianId,
      ticketId,
      action: 'step-settled',
      what: `${title}: ${done}${said.reason ? `, ${said.reason}` : ''}.`,
    });
  });
}

/** Says which device on the bench a ticket is about whose device was only described. */
export async function tieDevice(
  db: Database,
  bench: BenchWatch,
  number: string,
  deviceId: string,
  technicianId: string,
): Promise<void> {
  const { ticket, device } = await ticketForWork(db, number);
  if (device.readFrom !== 'typed') throw new Failure('already-exists');
  const facts = await bench.freshFacts(deviceId);
  const read = await rememberDevice(db, facts);
  await db.transaction(async (tx) => {
    await tx.update(tickets).set({ deviceId: read }).where(eq(tickets.id, ticket.id));
    await noteAudit(tx, {
      technicianId,
      ticketId: ticket.id,
      action: 'device-tied',
      what: `Its device is ${facts.familyName} ${facts.model} ${facts.serial}, read from the bench.`,
    });
  });
}

/** @throws Failure `step-refused` while something is left to do on it. */
export async function closeTicket(
  db: Database,
  bench: BenchWatch,
  number: string,
  technicianId: string,
): Promise<void> {
  const { base, facts } = await visitFacts(db, bench, number);
  const open = currentStep(runSheet(facts));
  if (open) {
    throw new Failure('step-refused', {
      what: `The ticket cannot be closed: “${open.title}” is ${open.state}.`,
      next: 'Settle every step first.',
    });
  }
  await db.transaction(async (tx) => {
    await tx.update(tickets).set({ closedAt: new Date() }).where(eq(tickets.id, base.ticket.id));
    await noteAudit(tx, {
      technicianId,
      ticketId: base.ticket.id,
      action: 'ticket-closed',
      what: 'Ticket closed.',
    });
  });
}

async function addCustomer(
  tx: Transaction,
  customer: { name: string; phone: string; email: string },
): Promise<string> {
  const id = randomUUID();
  await tx.insert(customers).values({ id, ...customer, createdAt: new Date() });
  return id;
}

const contains = (text: string) => `%${text.replace(/[%_\\]/g, '\\$&')}%`;

export async function findCustomers(db: Database, text: string): Promise<Customer[]> {
  const pattern = contains(text.trim());
  return db
    .select({
      id: customers.id,
      name: customers.name,
      phone: customers.phone,
      email: customers.email,
    })
    .from(customers)
    .where(
      or(
        like(customers.name, pattern),
        like(customers.phone, pattern),
        like(customers.email, pattern),
      ),
    )
    .orderBy(customers.name)
    .limit(8);
}

/** Open tickets by number, customer or device. */
export async function findTickets(db: Database, text: string) {
  const pattern = contains(text.trim());
  return baseQuery(db)
    .where(
      and(
        isNull(tickets.closedAt),
        or(
          like(tickets.number, pattern),
          like(customers.name, pattern),
          like(devices.serial, pattern),
          like(devices.name, pattern),
          like(devices.model, pattern),
        ),
      ),
    )
    .orderBy(desc(tickets.openedAt))
    .limit(8);
}
