import { randomUUID } from 'node:crypto';
import {
  Failure,
  serialRead,
  visitReasons,
  whereIs,
  type DeviceFacts,
  type DeviceId,
  type LinkDeviceId,
} from '@bright-cellar/core';
import type { KnownVisits, NewTicket } from '@bright-cellar/contract';
import { desc, eq, like, sql } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import { agreements, customers, devices, tickets } from '../database/schema.js';
import { knownDevice } from '../archives/index.js';
import { rememberDevice, rememberTyped } from '../bench/index.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { addCustomer, customerView, sameCustomer } from './customers.js';
import { ticketForWork, visitsQuery } from './visits.js';

/** Who was here before under that name and number is not somebody new because somebody typed it again. */
async function whoCame(
  tx: Transaction,
  typed: { name: string; phone: string; email: string },
  now: Date,
): Promise<string> {
  const same = typed.phone === '' ? null : await sameCustomer(tx, typed);
  return same ?? addCustomer(tx, typed, now);
}

/**
 * Opens a ticket for a device that is on the bench, or for one that is dead and was described. @returns its number.
 * @throws Failure `device-of-another` when it came with another customer before and nobody asked whose it is.
 */
export async function openTicket(context: Context, wanted: NewTicket): Promise<string> {
  const { db, bench } = context;
  const { technicianId } = context.actor;
  const deviceId =
    'deviceId' in wanted.device
      ? await rememberDevice(db, await bench.freshFacts(wanted.device.deviceId))
      : await rememberTyped(db, wanted.device);
  return unitOfWork(context, async (unit) => {
    const { tx, now } = unit;
    const customerId =
      'id' in wanted.customer ? wanted.customer.id : await whoCame(tx, wanted.customer, now);
    if (!wanted.otherOwnerConfirmed) await mustBeTheirs(tx, deviceId, customerId);
    const id = randomUUID();
    const number = await nextNumber(tx, now);
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
    unit.changed('ticket');
    unit.note({
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
  deviceId: DeviceId,
  customerId: string,
): Promise<void> {
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
  const rows = await visitsQuery(db)
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

/** Year, month, and a number that counts through the month: digits only, so that a scanner can type it. */
export async function nextNumber(tx: Transaction, now: Date): Promise<string> {
  const month = now.toISOString().slice(2, 7).replace('-', '');
  const [last] = await tx
    // As numbers: in letters, 10000 comes before 9999.
    .select({
      last: sql<
        string | null
      >`max(cast(substring(${tickets.number}, ${month.length + 1}) as unsigned))`,
    })
    .from(tickets)
    .where(like(tickets.number, `${month}%`))
    .for('update');
  const next = Number.parseInt(last?.last ?? '0', 10) + 1;
  return month + String(next).padStart(4, '0');
}

/**
 * Says which device on the bench a ticket is about whose device was only described.
 * @throws Failure `device-differs` when another serial or IMEI was typed, `device-of-another` when it came with another
 * customer before; neither once somebody answered that question.
 */
export async function tieDevice(
  context: Context,
  number: string,
  { deviceId, questionAnswered }: { deviceId: LinkDeviceId; questionAnswered: boolean },
): Promise<void> {
  const { db, bench } = context;
  const { ticket, device: described } = await ticketForWork(db, number);
  if (described.readFrom !== 'typed') throw new Failure('already-exists');
  const facts = await bench.freshFacts(deviceId);
  if (!questionAnswered) mustBeAsDescribed(described, facts);
  const read = await rememberDevice(db, facts);
  await unitOfWork(context, async (unit) => {
    const { tx } = unit;
    if (!questionAnswered) await mustBeTheirs(tx, read, ticket.customerId);
    await tx.update(tickets).set({ deviceId: read }).where(eq(tickets.id, ticket.id));
    unit.changed('ticket', number);
    unit.note({
      ticketId: ticket.id,
      action: 'device-tied',
      what: `Its device is ${facts.familyName} ${facts.model} ${facts.serial}, read from the bench.`,
    });
  });
}

function mustBeAsDescribed(
  described: { serial: string; imei: string | null },
  read: DeviceFacts,
): void {
  const differs = (name: string, typed: string | null, found: string | null) => {
    if (typed === null || found === null || typed.toUpperCase() === found.toUpperCase()) return;
    throw new Failure('device-differs', {
      what: `The ticket says ${name} ${typed}; the device ${whereIs(read)} says ${found}.`,
    });
  };
  differs('serial', serialRead(described.serial), read.serial);
  differs('IMEI', described.imei, read.imei);
}
