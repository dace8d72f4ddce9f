import { randomUUID } from 'node:crypto';
import { NO_SHEET_NAME, type DeviceId, type VisitSheet } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { agreements, tickets } from '../database/schema.js';
import type { Unit } from '../kernel/unit-of-work.js';
import { addCustomer, sameCustomer } from './customers.js';
import { nextNumber } from './intake.js';

const NUMBER = /^\d{8,12}$/;

/**
 * The visit that a backup says it belongs to: the one of that number, where it is the same device's; else one that is opened
 * with what the backup says of it, and is over. A number that is another's is not taken away from it.
 * @returns its id
 */
export async function takeUpTicket(
  unit: Unit,
  {
    header,
    deviceId,
    by,
  }: {
    header: { ticket: string; takenAt: string; sheet?: VisitSheet | undefined };
    deviceId: DeviceId;
    by: string;
  },
): Promise<string> {
  const { tx } = unit;
  const [known] = await tx.select().from(tickets).where(eq(tickets.number, header.ticket));
  if (known?.deviceId === deviceId) return known.id;
  const { sheet } = header;
  const takenAt = new Date(header.takenAt);
  const given = sheet?.customer ?? { name: NO_SHEET_NAME, phone: '', email: '' };
  const isFree = !known && NUMBER.test(header.ticket);
  const id = randomUUID();
  const number = isFree ? header.ticket : await nextNumber(tx, unit.now);
  const was =
    header.ticket === '' || isFree ? '' : ` Its number was ${header.ticket.slice(0, 40)}.`;
  await tx.insert(tickets).values({
    ...{ id, number, deviceId, promisedAt: null, openedBy: by },
    customerId: (await sameCustomer(tx, given)) ?? (await addCustomer(tx, given, unit.now)),
    reason: sheet?.reason ?? 'recovered',
    notes: `${sheet?.notes ?? ''}${was}`.trim(),
    openedAt: sheet ? new Date(sheet.openedAt) : takenAt,
    closedAt: takenAt,
  });
  if (sheet) {
    const { backup, lookIn, escrow, keepDays } = sheet.agreed;
    const said = { ticketId: id, by, at: new Date(sheet.openedAt) };
    await tx.insert(agreements).values([
      { ...said, kind: 'backup', given: backup, days: null },
      { ...said, kind: 'look-in', given: lookIn, days: null },
      { ...said, kind: 'escrow', given: escrow, days: null },
      { ...said, kind: 'keep', given: keepDays > 0, days: keepDays > 0 ? keepDays : null },
    ]);
  }
  unit.changed('ticket');
  unit.note({
    ticketId: id,
    action: 'ticket-opened',
    what: 'Ticket opened from what a backup says of its visit.',
  });
  return id;
}
