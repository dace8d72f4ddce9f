import { agreedFrom, type Agreed } from '@bright-cellar/core';
import { eq, inArray } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { nameOf } from '../database/columns.js';
import { agreements, technicians } from '../database/schema.js';

/** What was said about agreements on some tickets, the oldest first. */
export async function agreementsOf(db: Database, ticketIds: readonly string[]) {
  return db
    .select({
      ticketId: agreements.ticketId,
      kind: agreements.kind,
      given: agreements.given,
      days: agreements.days,
      by: nameOf(technicians),
      at: agreements.at,
    })
    .from(agreements)
    .leftJoin(technicians, eq(technicians.id, agreements.by))
    .where(inArray(agreements.ticketId, [...ticketIds]))
    .orderBy(agreements.id);
}

/** What the customer has agreed to by now. */
export async function agreedOf(db: Database, ticketId: string): Promise<Agreed> {
  return agreedFrom(await agreementsOf(db, [ticketId]));
}
