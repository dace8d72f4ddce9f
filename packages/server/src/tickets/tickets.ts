import { currentStep, runSheet, type Step } from '@bright-cellar/core';
import type { QueryOf, routes, Ticket, TicketRow, TicketSort } from '@bright-cellar/contract';
import {
  and,
  asc,
  count,
  desc,
  eq,
  inArray,
  isNotNull,
  isNull,
  like,
  or,
  sql,
  type SQL,
} from 'drizzle-orm';
import { isFoundBy } from '../database/columns.js';
import { containing } from '../database/containing.js';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf, PAGE_ROWS } from '../database/page.js';
import { audit, customers, devices, operations, technicians, tickets } from '../database/schema.js';
import { knownDevice, presentArchiveOf } from '../archives/index.js';
import { operationsWhere } from '../engine/index.js';
import type { Shop } from '../shop.js';
import { evidenceOf, factsOf, listedQuery, visitFacts, type Listed } from './visits.js';

function rowOf(visit: Listed, sheet: Step[]): TicketRow {
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

const columns = {
  opened: tickets.openedAt,
  number: tickets.number,
  customer: customers.name,
  device: devices.name,
  reason: tickets.reason,
} as const satisfies Record<TicketSort, unknown>;

/** A page of the open tickets. */
export async function listTickets(
  { db, bench }: Pick<Shop, 'db' | 'bench'>,
  { text, sort, order, after: cursor, only }: QueryOf<typeof routes.tickets>,
) {
  const by = columns[sort];
  const isOpen = isNull(tickets.closedAt);
  const isWanted = and(
    isOpen,
    text.trim() === '' ? undefined : matching(text),
    only === '' ? undefined : inArray(tickets.number, only.split(',')),
  );
  const beyond = cursor === '' ? undefined : after(cursor, by, tickets.id, order);
  const isNarrowed = text.trim() !== '' || only !== '';
  const [ids, total] = await Promise.all([
    idsOf(db, and(isWanted, beyond), orderOf(by, tickets.id, order), PAGE_ROWS + 1),
    isNarrowed ? counted(db, isWanted) : db.$count(tickets, isOpen),
  ]);
  const shown = ids.slice(0, PAGE_ROWS);
  const [page, evidence] = await Promise.all([listedOf(db, shown), evidenceOf(db, shown)]);
  const last = page.at(-1);
  return {
    rows: page.map((visit) => rowOf(visit, runSheet(factsOf(visit, evidence(visit), bench)))),
    next: ids.length > PAGE_ROWS && last ? cursorOf(sortedBy(last, sort), last.ticket.id) : null,
    total,
  };
}

/** Open tickets, those that were promised by the time of that, then the others by how long they are here. */
export async function openByPromise({ db, bench }: Pick<Shop, 'db' | 'bench'>, atMost: number) {
  const open = (more: SQL, order: SQL) =>
    db
      .select({ id: tickets.id })
      .from(tickets)
      .where(and(isNull(tickets.closedAt), more))
      .orderBy(order)
      .limit(atMost);
  // Each by its own index: in one order, all that is open would be sorted.
  const [promised, others] = await Promise.all([
    open(isNotNull(tickets.promisedAt), asc(tickets.promisedAt)),
    open(isNull(tickets.promisedAt), asc(tickets.openedAt)),
  ]);
  const ids = [...promised, ...others].slice(0, atMost).map(({ id }) => id);
  const [visits, evidence] = await Promise.all([listedOf(db, ids), evidenceOf(db, ids)]);
  return {
    rows: visits.map((visit) => rowOf(visit, runSheet(factsOf(visit, evidence(visit), bench)))),
  };
}

/**
 * Which tickets, in their order. Asked by itself: beside whoever opened them, the database would begin with those few people,
 * and look at every ticket that they ever opened.
 */
async function idsOf(db: Database, where: SQL | undefined, order: SQL[], atMost: number) {
  const rows = await db
    .select({ id: tickets.id })
    .from(tickets)
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .where(where)
    .orderBy(...order)
    .limit(atMost);
  return rows.map(({ id }) => id);
}

async function counted(db: Database, where: SQL | undefined): Promise<number> {
  const [all] = await db
    .select({ total: count() })
    .from(tickets)
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .where(where);
  return all?.total ?? 0;
}

/** Some tickets, as they are asked for. */
async function listedOf(db: Database, ids: readonly string[]): Promise<Listed[]> {
  if (ids.length === 0) return [];
  const found = await listedQuery(db).where(inArray(tickets.id, [...ids]));
  const byId = new Map(found.map((visit) => [visit.ticket.id, visit]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

const sortedBy = ({ ticket, customer, device }: Listed, sort: TicketSort): string | Date =>
  ({
    opened: ticket.openedAt,
    number: ticket.number,
    customer: customer.name,
    device: device.name,
    reason: ticket.reason,
  })[sort];

/** By number, customer or device. */
function matching(text: string) {
  const pattern = containing(text);
  return or(
    like(tickets.number, pattern),
    isFoundBy(customers.search, text),
    ...[devices.serial, devices.name, devices.model].map((column) =>
      like(sql`lower(${column})`, pattern),
    ),
  );
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
    closedAt: visit.ticket.closedAt?.toISOString() ?? null,
    openedBy: visit.openedBy,
    runSheet: sheet,
    berth: bench.bySerial(visit.device.serial)?.berth ?? null,
    archiveIds: evidence.archiveIds,
    settling: facts.target?.settling ?? [],
    knownArchive: await presentArchiveOf(db, visit),
    operations: await operationsWhere(db, eq(operations.ticketId, visit.ticket.id)),
    history: history.map((h) => ({ at: h.at.toISOString(), by: h.by ?? '', what: h.what })),
  };
}

/** Open tickets by number, customer or device; a few, the newest first. */
export const findTickets = async (db: Database, text: string): Promise<Listed[]> =>
  listedOf(
    db,
    await idsOf(
      db,
      and(isNull(tickets.closedAt), matching(text)),
      orderOf(tickets.openedAt, tickets.id, 'desc'),
      FOUND_AT_MOST,
    ),
  );

const FOUND_AT_MOST = 8;
