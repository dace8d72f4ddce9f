import { eq } from 'drizzle-orm';
import { operations, tickets } from '../database/schema.js';
import type { Unit } from '../kernel/unit-of-work.js';

/** An operation is in another state: whoever shows it, its ticket or its archive reads that again. */
export async function tellOf(unit: Unit, id: string): Promise<void> {
  const [row] = await unit.tx
    .select({ ticket: tickets.number, archiveId: operations.archiveId })
    .from(operations)
    .leftJoin(tickets, eq(tickets.id, operations.ticketId))
    .where(eq(operations.id, id));
  unit.changed('operation', id);
  if (row?.ticket) unit.changed('ticket', row.ticket);
  if (row?.archiveId) unit.changed('archive', row.archiveId);
}
