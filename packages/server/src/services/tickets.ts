import { randomUUID } from 'node:crypto';
import { currentStep, Failure, runSheet, visitReasons, type Step } from '@bright-cellar/core';
import type {
  Backup,
  Customer,
  NewTicket,
  Operation,
  Ticket,
  TicketRow,
} from '@bright-cellar/contract';
import { and, desc, eq, isNull, like, or, sql } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import { audit, backups, customers, devices, technicians, tickets } from '../database/schema.js';
import { backupsOf, foundDamaged, knownDevice, presentArchiveOf, provenAt } from './archives.js';
import { noteAudit } from './audit.js';
import { rememberDevice, type BenchWatch } from './bench.js';
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
  };
}

function sheetOf(base: Base, evidence: Evidence, bench: BenchWatch): Step[] {
  const { backup } = evidence;
  const restored = evidence.operations.find((o) => o.kind === 'restore' && o.state === 'done');
  return runSheet({
    reason: base.ticket.reason,
    agreedBackup: base.ticket.agreedBackup,
    customerName: base.customer.name,
    deviceSerial: base.device.serial,
    device: bench.bySerial(base.device.serial),
    running: evidence.operations.filter((o) => o.state === 'running').map((o) => o.kind),
    backup: backup && {
      items: backup.items,
      bytes: backup.bytes,
      failedItems: backup.failed.reduce((sum, f) => sum + f.count, 0),
      contentRevision: evidence.contentRevision,
      provenAt: provenAt(backup) ? new Date(provenAt(backup) ?? 0) : null,
      proofFailed: foundDamaged(backup),
    },
    restored: restored?.result
      ? { items: restored.result.items, targetName: restored.deviceName ?? 'the device' }
      : null,
  });
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
      rowOf(base, sheetOf(base, await evidenceOf(db, base.ticket.id), bench)),
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
  const sheet = sheetOf(base, evidence, bench);
  const history = await db
    .select({ at: audit.at, by: technicians.name, what: audit.what })
    .from(audit)
    .leftJoin(technicians, eq(technicians.id, audit.technicianId))
    .where(eq(audit.ticketId, base.ticket.id))
    .orderBy(desc(audit.id));
  return {
    ...rowOf(base, sheet),
    customer: base.customer,
    agreed: { backup: base.ticket.agreedBackup, keepDays: base.ticket.keepDays },
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

/** Opens a ticket for a device that is on the bench. @returns its number. */
export async function openTicket(
  db: Database,
  bench: BenchWatch,
  wanted: NewTicket,
  technicianId: string,
): Promise<string> {
  const facts = await bench.freshFacts(wanted.deviceId);
  const deviceId = await rememberDevice(db, facts);
  return db.transaction(async (tx) => {
    const customerId =
      'id' in wanted.customer ? wanted.customer.id : await addCustomer(tx, wanted.customer);
    const id = randomUUID();
    const number = await nextNumber(tx);
    const now = new Date();
    await tx.insert(tickets).values({
      id,
      number,
      customerId,
      deviceId,
      reason: wanted.reason,
      agreedBackup: wanted.agreedBackup,
      keepDays: wanted.keepDays,
      promisedAt: wanted.promisedAt ? new Date(wanted.promisedAt) : null,
      notes: wanted.notes,
      openedBy: technicianId,
      openedAt: now,
    });
    const agreed = wanted.agreedBackup
      ? `backup agreed, kept ${wanted.keepDays} days`
      : 'no backup agreed';
    await noteAudit(tx, {
      technicianId,
      ticketId: id,
      action: 'ticket-opened',
      what: `Ticket opened: ${visitReasons[wanted.reason].toLowerCase()}; ${agreed}.`,
    });
    return number;
  });
}

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

export async function agreeToBackup(
  db: Database,
  number: string,
  technicianId: string,
): Promise<void> {
  const { ticket } = await ticketForWork(db, number);
  await db.transaction(async (tx) => {
    await tx.update(tickets).set({ agreedBackup: true }).where(eq(tickets.id, ticket.id));
    await noteAudit(tx, {
      technicianId,
      ticketId: ticket.id,
      action: 'agreement',
      what: 'The customer agreed to a backup.',
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
