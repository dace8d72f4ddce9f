import { randomUUID } from 'node:crypto';
import { withoutItems } from '@bright-cellar/core';
import type { Plan } from '@bright-cellar/contract';
import { and, desc, eq, isNotNull, or } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { plans } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { ticketForWork } from '../tickets/index.js';
import type { Scope } from './planning.js';

/** Plans that suit a ticket's device: what was taken of it last, what this technician takes for such a visit, what was saved. */
export async function plansFor(
  db: Database,
  number: string,
  technicianId: string,
): Promise<Plan[]> {
  const { ticket, device } = await ticketForWork(db, number);
  const rows = await db
    .select()
    .from(plans)
    .where(
      or(
        eq(plans.deviceId, device.id),
        and(eq(plans.family, device.family), eq(plans.technicianId, technicianId)),
        and(eq(plans.family, device.family), isNotNull(plans.name)),
      ),
    )
    .orderBy(desc(plans.usedAt));
  const remembered = rows.filter((r) => r.name === '');
  const ofDevice = remembered.find((r) => r.deviceId === device.id);
  const ofVisit = remembered.find(
    (r) => r.technicianId === technicianId && r.reason === ticket.reason,
  );
  const view = (row: typeof plans.$inferSelect, because: string): Plan => ({
    id: row.id,
    name: row.name,
    mode: row.mode,
    choice: row.choice,
    encrypted: row.encrypted,
    because,
  });
  return [
    ...(ofDevice ? [view(ofDevice, 'As this device was taken last.')] : []),
    ...(ofVisit && ofVisit !== ofDevice
      ? [view(ofVisit, 'As you took the last one for such a visit.')]
      : []),
    ...rows.filter((r) => r.name !== '').map((r) => view(r, 'Saved.')),
  ];
}

/** Keeps a plan: under a name, or as what is remembered for next time. Single items are never kept. */
export async function keepPlan(
  context: Context,
  number: string,
  scope: Scope,
  name: string,
): Promise<void> {
  const { technicianId } = context.actor;
  const { ticket, device } = await ticketForWork(context.db, number);
  const same =
    name === ''
      ? and(
          eq(plans.name, ''),
          eq(plans.deviceId, device.id),
          eq(plans.technicianId, technicianId),
          eq(plans.reason, ticket.reason),
        )
      : and(eq(plans.name, name), eq(plans.family, device.family));
  await unitOfWork(context, async (unit) => {
    const { tx } = unit;
    await tx.delete(plans).where(same);
    await tx.insert(plans).values({
      id: randomUUID(),
      name,
      family: device.family,
      deviceId: name === '' ? device.id : null,
      reason: name === '' ? ticket.reason : null,
      technicianId,
      mode: scope.mode,
      choice: scope.mode === 'chosen' ? withoutItems(scope.choice) : {},
      encrypted: scope.encrypted,
      usedAt: unit.now,
    });
    if (name === '') return;
    unit.note({
      ticketId: ticket.id,
      action: 'plan-saved',
      what: 'A plan was saved under a name.',
    });
  });
}
