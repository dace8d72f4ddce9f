import { countOf, Failure, type DeviceId } from '@bright-cellar/core';
import { and, count, eq, exists, inArray, isNull, lt, ne, notExists, sql } from 'drizzle-orm';
import { searchText } from '../database/columns.js';
import type { Database, Transaction } from '../database/connect.js';
import {
  archiveRows,
  archives,
  customers,
  devices,
  disposals,
  operations,
  savedViews,
  syncSnapshots,
  syncStates,
  tickets,
} from '../database/schema.js';
import { theProgram } from '../kernel/actor.js';
import { unitOfWork, type Unit } from '../kernel/unit-of-work.js';
import { readSettings } from '../settings/index.js';
import type { Context, Shop } from '../shop.js';

/** What stands in the place of a name that was let go. */
export const NO_NAME = 'Name let go';

type Reading = Pick<Database, 'select'>;

/** Why a customer cannot be forgotten yet, in words; empty where nothing is in the way. */
export async function whatIsKept(db: Reading, customerId: string): Promise<string[]> {
  const own = await db
    .select({ number: tickets.number, closedAt: tickets.closedAt })
    .from(tickets)
    .where(eq(tickets.customerId, customerId));
  const [kept] = await db
    .select({ archives: count() })
    .from(archiveRows)
    .innerJoin(archives, eq(archives.id, archiveRows.archiveId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(eq(tickets.customerId, customerId));
  const numbers = own.map(({ number }) => number);
  const [owed] =
    numbers.length === 0
      ? []
      : await db
          .select({ disposals: count() })
          .from(disposals)
          .where(and(isNull(disposals.doneAt), inArray(disposals.ticketNumber, numbers)));
  const open = own.filter(({ closedAt }) => closedAt === null);
  const archivesKept = kept?.archives ?? 0;
  const disposalsOwed = owed?.disposals ?? 0;
  return [
    ...(open.length > 0 ? [`Ticket ${open.map(({ number }) => number).join(', ')} is open.`] : []),
    ...(archivesKept > 0
      ? [`${countOf(archivesKept, 'archive')} of theirs ${archivesKept === 1 ? 'is' : 'are'} kept.`]
      : []),
    ...(disposalsOwed > 0 ? ['A copy of theirs is still to be destroyed.'] : []),
  ];
}

/**
 * Lets go of a customer’s name, number and address, of what was noted about them, and of what their devices are called. Tickets,
 * certificates and the record stay, of nobody in particular.
 * @throws Failure `not-found`, `input-not-valid` where something of theirs is kept or under way
 */
export async function forgetCustomer(context: Context, customerId: string): Promise<void> {
  await unitOfWork(context, async (unit) => {
    await mustBeThere(unit.tx, customerId);
    const kept = await whatIsKept(unit.tx, customerId);
    if (kept.length > 0) {
      throw new Failure('input-not-valid', {
        what: kept.join(' '),
        safe: 'Nothing was changed.',
        next: 'Close the ticket; hand out or destroy what is kept; then forget them.',
      });
    }
    await letGo(unit, customerId, 'on request');
  });
}

/** Where everything of theirs was destroyed, and the house rules say so. */
export async function forgetWhereNothingIsKept(unit: Unit, customerId: string): Promise<void> {
  if ((await whatIsKept(unit.tx, customerId)).length > 0) return;
  await letGo(unit, customerId, 'nothing of theirs is kept');
}

const AT_ONCE = 50;

/**
 * Forgets customers who were not here for as long as the house rules say, and of whom nothing is kept.
 * @returns how many
 */
export async function forgetByAge(shop: Shop): Promise<number> {
  const { db, clock } = shop;
  const months = Number((await readSettings(db)).disposal.forgetAfter);
  if (months === 0) return 0;
  const before = new Date(clock.now());
  before.setMonth(before.getMonth() - months);
  const theirs = (more: Parameters<typeof and>[0]) =>
    db
      .select({ one: sql`1` })
      .from(tickets)
      .where(and(eq(tickets.customerId, customers.id), more));
  const old = await db
    .select({ id: customers.id })
    .from(customers)
    .where(
      and(
        ne(customers.name, NO_NAME),
        lt(customers.createdAt, before),
        exists(theirs(undefined)),
        notExists(theirs(isNull(tickets.closedAt))),
        notExists(theirs(sql`${tickets.closedAt} >= ${sql.param(before, tickets.closedAt)}`)),
      ),
    )
    .limit(AT_ONCE);
  let forgotten = 0;
  for (const { id } of old) {
    await unitOfWork({ ...shop, actor: theProgram }, async (unit) => {
      if ((await whatIsKept(unit.tx, id)).length > 0) return;
      await letGo(unit, id, `not here for ${countOf(months, 'month')}`);
      forgotten += 1;
    });
  }
  return forgotten;
}

async function letGo(unit: Unit, customerId: string, why: string): Promise<void> {
  const { tx } = unit;
  const customer = await mustBeThere(tx, customerId);
  const own = await tx
    .select({ id: tickets.id, number: tickets.number, deviceId: tickets.deviceId })
    .from(tickets)
    .where(eq(tickets.customerId, customerId));
  await tx
    .update(customers)
    .set({ name: NO_NAME, phone: '', email: '', search: searchText(NO_NAME) })
    .where(eq(customers.id, customerId));
  for (const { id, number, deviceId } of own) {
    await tx.update(tickets).set({ notes: '' }).where(eq(tickets.id, id));
    // People call their devices by their own names.
    await tx
      .update(devices)
      .set({ name: sql`${devices.model}` })
      .where(eq(devices.id, deviceId));
    await dropBooks(tx, deviceId);
    await tx.update(operations).set({ deviceName: null }).where(eq(operations.ticketId, id));
    // So do they their folders.
    await tx
      .update(operations)
      .set({ input: sql`json_replace(${operations.input}, '$.value.folder', 'let-go')` })
      .where(and(eq(operations.ticketId, id), eq(operations.kind, 'bringIn')));
    await tx
      .update(disposals)
      .set({ customerName: '', deviceName: sql`${disposals.device}` })
      .where(eq(disposals.ticketNumber, number));
    unit.changed('ticket', number);
  }
  await dropViewsWith(tx, customer);
  unit.note({
    action: 'names-forgotten',
    ticketId: own[0]?.id ?? null,
    what: `The customer’s name, number and address were let go: ${why}.`,
  });
}

/** What is remembered of their contacts and calendar, since a device of theirs was kept in step with them. */
async function dropBooks(tx: Transaction, deviceId: DeviceId): Promise<void> {
  const [device] = await tx
    .select({ serial: devices.serial })
    .from(devices)
    .where(eq(devices.id, deviceId));
  if (!device) return;
  for (const table of [syncStates, syncSnapshots])
    await tx.delete(table).where(eq(table.serial, device.serial));
}

/** Searches that somebody kept under a name, and that would still say whose they are. */
async function dropViewsWith(
  tx: Transaction,
  { name, phone }: { name: string; phone: string },
): Promise<void> {
  const telling = [name, phone]
    .map((text) => text.trim().toLowerCase())
    .filter((text) => text.length > 2);
  const all = await tx
    .select({ id: savedViews.id, name: savedViews.name, find: savedViews.find })
    .from(savedViews);
  const theirs = all.filter((view) =>
    telling.some((text) => `${view.name} ${view.find}`.toLowerCase().includes(text)),
  );
  for (const { id } of theirs) await tx.delete(savedViews).where(eq(savedViews.id, id));
}

async function mustBeThere(tx: Transaction, customerId: string) {
  const [found] = await tx
    .select()
    .from(customers)
    .where(eq(customers.id, customerId))
    .for('update');
  if (!found) throw new Failure('not-found');
  return found;
}
