import {
  Failure,
  syncedClasses,
  syncedKinds,
  type LinkDeviceId,
  type PartnerSite,
} from '@bright-cellar/core';
import type { PartnerTold } from '@bright-cellar/contract';
import { and, eq, isNull } from 'drizzle-orm';
import { agreedOf } from '../../agreements/index.js';
import type { Database } from '../../database/connect.js';
import { devices, lookIns, tickets } from '../../database/schema.js';
import { noteOnly } from '../../kernel/unit-of-work.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import { openBackupOrder, openDeviceOrder, openFilesOrder, openPartnerOrder } from './orders.js';

/** Names of people are shown side by side. @throws Failure `not-agreed` */
export async function mustBeAgreed({ db }: Context, number: string) {
  const found = await ticketForWork(db, number);
  if (!(await agreedOf(db, found.ticket.id)).lookIn) {
    throw new Failure('not-agreed', {
      what: 'The customer has not agreed that the shop looks inside.',
      next: 'Ask the customer, and put their word on the ticket.',
    });
  }
  return found;
}

/** Signs in to the customer's server, and says what is there. */
export async function openCustomersServer(
  context: Context,
  number: string,
  asked: { deviceId: LinkDeviceId; site: PartnerSite; password: string },
): Promise<PartnerTold> {
  const { ticket } = await mustBeAgreed(context, number);
  const { technicianId } = context.actor;
  const told = await context.orders.ask(openPartnerOrder, { ...asked, technicianId });
  await onRecord(
    context,
    ticket.id,
    `The customer’s own server was opened: ${told.books.length} books and calendars.`,
  );
  return told;
}

/** The same with files that the customer brought. */
export async function openCustomersFiles(
  context: Context,
  number: string,
  asked: { deviceId: LinkDeviceId; text: string },
): Promise<PartnerTold> {
  const { ticket } = await mustBeAgreed(context, number);
  const { technicianId } = context.actor;
  const told = await context.orders.ask(openFilesOrder, { ...asked, technicianId });
  await onRecord(
    context,
    ticket.id,
    'Files of contacts or a calendar that the customer brought were opened.',
  );
  return told;
}

/** Other devices that are there of the same customer, who agreed for them too. */
export async function openCustomersDevice(
  context: Context,
  number: string,
  asked: { deviceId: LinkDeviceId; other: LinkDeviceId },
): Promise<PartnerTold> {
  const { ticket, customer } = await mustBeAgreed(context, number);
  const facts = await context.bench.freshFacts(asked.other);
  const own = await openTicketOf(context.db, facts.serial, customer.id);
  if (!own || asked.other === asked.deviceId) {
    throw new Failure('not-found', {
      what: 'No open ticket of this customer has that device.',
      next: 'Open one for it, if it is theirs.',
    });
  }
  await mustBeAgreed(context, own);
  const { takes } = facts.capabilities;
  const name = `${facts.familyName} ${facts.model}`;
  const books = syncedKinds
    .filter((kind) => !takes || takes.items.some((item) => item.class === syncedClasses[kind]))
    .map((kind) => ({ id: kind, kind, name }));
  const told = await context.orders.ask(openDeviceOrder, {
    ...{ technicianId: context.actor.technicianId, deviceId: asked.deviceId, books },
    other: { deviceId: facts.id, serial: facts.serial, changes: takes?.changes === true },
  });
  await onRecord(
    context,
    ticket.id,
    `Another device of the customer’s was opened: ${name} ${facts.serial}.`,
  );
  return told;
}

/** What a backup of the customer's holds, which somebody looks into. */
export async function openCustomersBackup(
  context: Context,
  number: string,
  asked: { deviceId: LinkDeviceId; lookIn: string },
): Promise<PartnerTold> {
  const { ticket, customer } = await mustBeAgreed(context, number);
  const [looked] = await context.db
    .select({ customerId: tickets.customerId })
    .from(lookIns)
    .innerJoin(tickets, eq(tickets.id, lookIns.ticketId))
    .where(eq(lookIns.id, asked.lookIn));
  if (looked?.customerId !== customer.id) throw new Failure('look-in-over');
  const { technicianId } = context.actor;
  const told = await context.orders.ask(openBackupOrder, { ...asked, technicianId });
  await onRecord(
    context,
    ticket.id,
    'The contacts and the calendar in a backup that is looked into were opened.',
  );
  return told;
}

/** @returns its number; null where none of this customer has it */
async function openTicketOf(
  db: Database,
  serial: string,
  customerId: string,
): Promise<string | null> {
  const [found] = await db
    .select({ number: tickets.number })
    .from(tickets)
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .where(
      and(eq(devices.serial, serial), eq(tickets.customerId, customerId), isNull(tickets.closedAt)),
    );
  return found?.number ?? null;
}

const onRecord = (context: Context, ticketId: string, what: string): Promise<void> =>
  noteOnly(context, { action: 'partner-opened', what, ticketId });
