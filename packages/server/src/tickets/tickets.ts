import { currentStep, runSheet, type Step } from '@bright-cellar/core';
import type { Ticket, TicketRow } from '@bright-cellar/contract';
import { and, desc, eq, isNull, like, or } from 'drizzle-orm';
import { containing } from '../database/containing.js';
import type { Database } from '../database/connect.js';
import { audit, customers, devices, technicians, tickets } from '../database/schema.js';
import { knownDevice, presentArchiveOf } from '../archives/index.js';
import type { Shop } from '../shop.js';
import { evidenceOf, factsOf, visitFacts, visitsQuery, type Visit } from './visits.js';

function rowOf(visit: Visit, sheet: Step[]): TicketRow {
  return {
    number: visit.ticket.number,
    customerName: visit.customer.name,
    device: knownDevice(visit.device),
    reason: visit.ticket.reason,
    openedAt: visit.ticket.openedAt.toISOString(),
    promisedAt: visit.ticket.promisedAt?.toISOString() ?? null,
    step: currentStep(sheet),
  };
}

/** Open tickets, newest first. */
export async function listTickets({ db, bench }: Pick<Shop, 'db' | 'bench'>): Promise<TicketRow[]> {
  const open = await visitsQuery(db)
    .where(isNull(tickets.closedAt))
    .orderBy(desc(tickets.openedAt));
  const evidence = await evidenceOf(db, open);
  return open.map((visit) => rowOf(visit, runSheet(factsOf(visit, evidence(visit), bench))));
}

/** @throws Failure `not-found` */
export async function ticketByNumber(
  shop: Pick<Shop, 'db' | 'bench'>,
  number: string,
): Promise<Ticket> {
  const { db, bench } = shop;
  const { visit, evidence, facts } = await visitFacts(shop, number);
  const sheet = runSheet(facts);
  const history = await db
    .select({ at: audit.at, by: technicians.name, what: audit.what })
    .from(audit)
    .leftJoin(technicians, eq(technicians.id, audit.technicianId))
    .where(eq(audit.ticketId, visit.ticket.id))
    .orderBy(desc(audit.id));
  return {
    ...rowOf(visit, sheet),
    customer: visit.customer,
    agreed: facts.agreed,
    agreements: evidence.said.toReversed().map((a) => ({ ...a, at: a.at.toISOString() })),
    notes: visit.ticket.notes,
    openedBy: visit.openedBy,
    runSheet: sheet,
    berth: bench.bySerial(visit.device.serial)?.berth ?? null,
    archiveIds: evidence.archiveIds,
    knownArchive: await presentArchiveOf(db, visit.device.id),
    operations: evidence.operations,
    history: history.map((h) => ({ at: h.at.toISOString(), by: h.by ?? '', what: h.what })),
  };
}

/** Open tickets by number, customer or device. */
export async function findTickets(db: Database, text: string) {
  const pattern = containing(text);
  return visitsQuery(db)
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
