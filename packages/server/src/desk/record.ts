import type { DeviceId } from '@bright-cellar/core';
import { deskActions } from '@bright-cellar/contract';
import { desc, eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { technicians, tickets } from '../database/schema.js';
import { describeError, type Log } from '../log.js';
import { unitOfWork, type Acting, type AuditLine } from '../kernel/unit-of-work.js';
import type { DeskEvents } from './password-desk.js';

/** What happens on customers' pages goes on record with the device's newest ticket, and screens show it. */
export function deskRecord(acting: Acting, log: Log): DeskEvents {
  const tell = (deviceId: DeviceId, line: AuditLine | null, by: string | null = null) => {
    record(acting, deviceId, line, by).catch((error: unknown) =>
      log.error({ error: describeError(error) }, 'a customer’s page could not be put on record'),
    );
  };
  return {
    changed: (deviceId) => tell(deviceId, null),
    opened: ({ deviceId, technician }) =>
      tell(
        deviceId,
        {
          action: 'desk-seen',
          what: technician
            ? 'The customer’s page was opened where they are signed in.'
            : 'The customer’s page was opened.',
        },
        technician,
      ),
    filled: ({ deviceId, action }) =>
      tell(deviceId, {
        action: 'desk-filled',
        what: `The customer typed a password: to ${deskActions[action]}.`,
      }),
  };
}

async function record(
  acting: Acting,
  deviceId: DeviceId,
  line: AuditLine | null,
  by: string | null,
): Promise<void> {
  const ticket = await newestTicket(acting.db, deviceId);
  const technicianId = by === null ? null : await technicianNamed(acting.db, by);
  await unitOfWork(acting, async (unit) => {
    if (line) unit.note({ ...line, technicianId, ticketId: ticket?.id ?? null });
    if (ticket) unit.changed('ticket', ticket.number);
  });
}

async function newestTicket(db: Database, deviceId: DeviceId) {
  const [ticket] = await db
    .select({ id: tickets.id, number: tickets.number })
    .from(tickets)
    .where(eq(tickets.deviceId, deviceId))
    .orderBy(desc(tickets.openedAt))
    .limit(1);
  return ticket;
}

async function technicianNamed(db: Database, name: string): Promise<string | null> {
  const [technician] = await db
    .select({ id: technicians.id })
    .from(technicians)
    .where(eq(technicians.name, name));
  return technician?.id ?? null;
}
