import type { CustomerData } from '@bright-cellar/contract';
import {
  agreementNames,
  Failure,
  formatBytes,
  serialRead,
  visitReasons,
} from '@bright-cellar/core';
import { asc, desc, eq, inArray } from 'drizzle-orm';
import { nameOf } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import {
  agreements,
  archiveRows,
  archives,
  audit,
  backups,
  copies,
  customers,
  devices,
  disposals,
  racks,
  technicians,
  tickets,
} from '../database/schema.js';
import type { SheetSection } from '../paper/index.js';
import { whatIsKept } from './forgetting.js';

/** Everything that the catalogue has of somebody. What is inside of their backups, only their password opens. @throws Failure `not-found` */
export async function customerData(db: Database, id: string): Promise<CustomerData> {
  const [customer] = await db.select().from(customers).where(eq(customers.id, id));
  if (!customer) throw new Failure('not-found');
  const visits = await db
    .select({ ticket: tickets, device: devices })
    .from(tickets)
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .where(eq(tickets.customerId, id))
    .orderBy(desc(tickets.openedAt));
  const ids = visits.map(({ ticket }) => ticket.id);
  const of = <Row>(rows: Promise<Row[]>): Promise<Row[]> =>
    ids.length === 0 ? Promise.resolve([]) : rows;
  const [said, kept, destroyed, done, inTheWay] = await Promise.all([
    of(
      db
        .select()
        .from(agreements)
        .where(inArray(agreements.ticketId, ids))
        .orderBy(asc(agreements.id)),
    ),
    of(
      db
        .select({ backup: backups, rackName: racks.name, ticketId: archives.ticketId })
        .from(archiveRows)
        .innerJoin(archives, eq(archives.id, archiveRows.archiveId))
        .innerJoin(backups, eq(backups.archiveId, archives.id))
        .leftJoin(copies, eq(copies.archiveId, archives.id))
        .leftJoin(racks, eq(racks.id, copies.rackId))
        .where(inArray(archives.ticketId, ids))
        .orderBy(desc(backups.takenAt)),
    ),
    of(
      db
        .select()
        .from(disposals)
        .where(
          inArray(
            disposals.ticketNumber,
            visits.map(({ ticket }) => ticket.number),
          ),
        ),
    ),
    of(
      db
        .select({ at: audit.at, what: audit.what, by: nameOf(technicians) })
        .from(audit)
        .leftJoin(technicians, eq(technicians.id, audit.technicianId))
        .where(inArray(audit.ticketId, ids))
        .orderBy(asc(audit.id))
        .limit(MOST_LINES),
    ),
    whatIsKept(db, id),
  ]);
  const backupsById = new Map<string, CustomerData['backups'][number]>();
  for (const { backup, rackName } of kept) {
    const known = backupsById.get(backup.id);
    if (known) {
      if (rackName !== null) known.racks.push(rackName);
      continue;
    }
    backupsById.set(backup.id, {
      ...{ takenAt: backup.takenAt.toISOString(), items: backup.items, bytes: backup.bytes },
      racks: rackName === null ? [] : [rackName],
    });
  }
  return {
    customer: { id, name: customer.name, phone: customer.phone, email: customer.email },
    since: customer.createdAt.toISOString(),
    visits: visits.map(({ ticket, device }) => ({
      ...{ number: ticket.number, reason: visitReasons[ticket.reason], notes: ticket.notes },
      ...{
        openedAt: ticket.openedAt.toISOString(),
        closedAt: ticket.closedAt?.toISOString() ?? null,
      },
      device: {
        ...{ family: device.familyName, model: device.model, name: device.name },
        ...{ serial: serialRead(device.serial) ?? '', imei: device.imei ?? '' },
      },
      agreed: said
        .filter(({ ticketId }) => ticketId === ticket.id)
        .map(({ kind, given, at }) => ({
          ...{ what: agreementNames[kind], given, at: at.toISOString() },
        })),
    })),
    backups: [...backupsById.values()],
    destroyed: destroyed.map(({ number, device, doneAt }) => ({
      ...{ number, device, doneAt: doneAt?.toISOString() ?? null },
    })),
    record: done.map(({ at, what, by }) => ({ at: at.toISOString(), what, by })),
    inTheWay,
  };
}

const MOST_LINES = 2000;
const dateTime = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
const at = (instant: string) => dateTime.format(new Date(instant));

/** The same as parts of a sheet. */
export function customerSections({
  customer,
  since,
  visits,
  backups: kept,
  destroyed,
  record,
}: CustomerData): SheetSection[] {
  return [
    {
      title: '',
      lines: [
        { name: 'Name', text: customer.name },
        { name: 'Telephone', text: customer.phone || 'not noted' },
        { name: 'E-mail', text: customer.email || 'not noted' },
        { name: 'Known since', text: at(since) },
      ],
    },
    ...visits.map((visit) => ({
      title: `Visit ${visit.number}`,
      lines: [
        {
          name: 'From, to',
          text: `${at(visit.openedAt)} – ${visit.closedAt ? at(visit.closedAt) : 'open'}`,
        },
        { name: 'Reason', text: visit.reason },
        {
          name: 'Device',
          text: [
            ...[visit.device.family, visit.device.model, visit.device.name],
            ...[
              visit.device.serial && `serial ${visit.device.serial}`,
              visit.device.imei && `IMEI ${visit.device.imei}`,
            ],
          ]
            .filter(Boolean)
            .join(', '),
        },
        { name: 'Noted', text: visit.notes || 'nothing' },
        ...visit.agreed.map(({ what, given, at: when }) => ({
          ...{ name: given ? 'Agreed' : 'Not agreed', text: `${what} (${at(when)})` },
        })),
      ],
    })),
    {
      title: 'Backups that are kept',
      lines:
        kept.length === 0
          ? [{ name: '', text: 'None.' }]
          : kept.map(({ takenAt, items, bytes, racks: on }) => ({
              ...{
                name: at(takenAt),
                text: `${items} items, ${formatBytes(bytes)}; on ${on.join(', ') || 'no rack'}`,
              },
            })),
    },
    {
      title: 'Destroyed',
      lines: destroyed.map(({ number, device, doneAt }) => ({
        ...{
          name: `Certificate ${number}`,
          text: `${device}, ${doneAt ? at(doneAt) : 'not all of it yet'}`,
        },
      })),
    },
    {
      title: 'What was done, and by whom',
      lines: record.map(({ at: when, what, by }) => ({ name: `${at(when)} ${by}`, text: what })),
    },
  ].filter(({ lines }) => lines.length > 0);
}

/** What the record says of a customer, it says of a ticket of theirs: of the first. */
export async function firstTicketOf(db: Database, customerId: string): Promise<string | null> {
  const [first] = await db
    .select({ id: tickets.id })
    .from(tickets)
    .where(eq(tickets.customerId, customerId))
    .orderBy(asc(tickets.openedAt))
    .limit(1);
  return first?.id ?? null;
}
