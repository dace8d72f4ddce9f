import type { AuditAsk, RecordEntry } from '@bright-cellar/contract';
import { auditActionsOf } from '@bright-cellar/core';
import { and, asc, eq, gt, gte, inArray, lt, type SQL } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf, PAGE_ROWS } from '../database/page.js';
import { audit, technicians, tickets } from '../database/schema.js';

const columns = {
  id: audit.id,
  at: audit.at,
  technicianId: audit.technicianId,
  ticketId: audit.ticketId,
  by: technicians.name,
  login: technicians.login,
  ticketNumber: tickets.number,
  action: audit.action,
  what: audit.what,
  digest: audit.digest,
};

/** Days are those of the shop’s own clock: where this computer stands. */
const startOf = (day: string, daysOn = 0): Date => {
  const date = new Date(`${day}T00:00:00`);
  date.setDate(date.getDate() + daysOn);
  return date;
};

async function asked(db: Database, ask: AuditAsk): Promise<SQL | undefined> {
  const about =
    ask.ticket === ''
      ? null
      : await db
          .select({ id: tickets.id })
          .from(tickets)
          .where(eq(tickets.number, ask.ticket))
          .limit(1);
  return and(
    ask.who === '' ? undefined : eq(audit.technicianId, ask.who),
    ask.group === '' ? undefined : inArray(audit.action, [...auditActionsOf(ask.group)]),
    about === null ? undefined : eq(audit.ticketId, about[0]?.id ?? ''),
    ask.from === '' ? undefined : gte(audit.at, startOf(ask.from)),
    ask.to === '' ? undefined : lt(audit.at, startOf(ask.to, 1)),
  );
}

const shown = (row: Entry): RecordEntry => ({
  id: row.id,
  at: row.at.toISOString(),
  by: row.by,
  ticketNumber: row.ticketNumber,
  action: row.action,
  what: row.what,
});

function rowsOf(db: Database, where: SQL | undefined, order: SQL[], atMost: number) {
  return db
    .select(columns)
    .from(audit)
    .leftJoin(technicians, eq(technicians.id, audit.technicianId))
    .leftJoin(tickets, eq(tickets.id, audit.ticketId))
    .where(where)
    .orderBy(...order)
    .limit(atMost);
}

/** A page of the record, the newest first. */
export async function listAudit(db: Database, ask: AuditAsk & { after: string }) {
  const beyond = ask.after === '' ? undefined : after(ask.after, audit.at, audit.id, 'desc');
  const where = and(await asked(db, ask), beyond);
  const rows = await rowsOf(db, where, orderOf(audit.at, audit.id, 'desc'), PAGE_ROWS + 1);
  const page = rows.slice(0, PAGE_ROWS);
  const last = page.at(-1);
  return {
    rows: page.map(shown),
    next: rows.length > PAGE_ROWS && last ? cursorOf(last.at, String(last.id)) : null,
  };
}

const AT_ONCE = 2000;

/** Everything that was asked for, in the order of its chain, some at a time: as much as there is, never all in memory. */
/** An entry with the names that go with its ids. */
export type Entry = Awaited<ReturnType<typeof rowsOf>>[number];

export async function* everyEntry(db: Database, ask: AuditAsk) {
  const where = await asked(db, ask);
  for (let last = 0; ;) {
    const rows = await rowsOf(db, and(where, gt(audit.id, last)), [asc(audit.id)], AT_ONCE);
    if (rows.length > 0) yield rows;
    if (rows.length < AT_ONCE) return;
    last = rows.at(-1)?.id ?? last;
  }
}
