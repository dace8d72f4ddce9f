import {
  audit,
  agreements,
  archiveRows,
  customers,
  devices,
  disposals,
  operations,
  settings,
  syncStates,
  tickets,
} from '../database/schema.js';
import { eq } from 'drizzle-orm';
import { Failure } from '@bright-cellar/core';
import { expect, describe, test } from 'vitest';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newArchiveId } from '../testing/ids.js';
import { listDisposals, owedOf, recordDecision, recordEnd } from './disposals.js';
import { forgetByAge } from './forgetting.js';
import { hold, keepingOf, keepLonger, liftHold, listDue } from './keeping.js';
import { randomUUID } from 'node:crypto';

/** How long archives are kept, and what is known of those that were destroyed. */
const { db, acting, clock, addTicket, addRack, addArchive } = await testCatalogue();
const context = acting as unknown as Context;
const DAY_MS = 86_400_000;

/** An archive of a visit that is over, kept so many days. */
async function keptArchive(days: number, closed = true) {
  const ticket = await addTicket();
  const rack = await addRack();
  const { archive } = await addArchive(ticket, rack);
  await unitOfWork(acting, async (unit) => {
    const { tx, now } = unit;
    await tx.insert(agreements).values({
      ...{ ticketId: ticket.ticket, kind: 'keep', given: true, days, at: now },
      by: acting.actor.technicianId,
    });
    if (closed)
      await tx.update(tickets).set({ closedAt: now }).where(eq(tickets.id, ticket.ticket));
    unit.changed('archive', archive);
  });
  return { ticket, rack, archive };
}
const dueIds = async () => (await listDue(db, clock.now())).due.map(({ archiveId }) => archiveId);

describe('an archive', () => {
  test('is due once the days that were agreed are over, and stays until somebody does something', async () => {
    const { archive, ticket } = await keptArchive(30);
    expect(await dueIds()).not.toContain(archive);
    clock.forward(29 * DAY_MS);
    expect(await dueIds()).not.toContain(archive);
    clock.forward(2 * DAY_MS);
    const { due } = await listDue(db, clock.now());
    expect(due.find(({ archiveId }) => archiveId === archive)).toMatchObject({
      ticketNumber: ticket.number,
    });
  });

  test('is not due while its visit is open', async () => {
    const { archive } = await keptArchive(0, false);
    clock.forward(400 * DAY_MS);
    expect(await dueIds()).not.toContain(archive);
    expect((await keepingOf(db, archive)).dueAt).toBeNull();
  });

  test('is kept longer where somebody says so, and the last word counts', async () => {
    const { archive } = await keptArchive(0);
    expect(await dueIds()).toContain(archive);
    const day = new Date(clock.now().getTime() + 10 * DAY_MS).toISOString().slice(0, 10);
    const kept = await keepLonger(context, archive, { until: day, reason: 'they asked' });
    expect(kept).toMatchObject({ dueAt: `${day}T23:59:59.000Z`, longer: { reason: 'they asked' } });
    expect(await dueIds()).not.toContain(archive);
    const told = await keepLonger(context, archive, { until: null, reason: 'a court' });
    expect(told).toMatchObject({ dueAt: null, untilTold: true });
    const past = keepLonger(context, archive, { until: '2020-01-01', reason: 'no' });
    await expect(past).rejects.toBeInstanceOf(Failure);
  });

  test('that is held is listed with the reason, until the hold is lifted', async () => {
    const { archive } = await keptArchive(0);
    const held = async () => (await listDue(db, clock.now())).held.map((row) => row.archiveId);
    await hold(context, archive, 'an insurance case');
    expect((await keepingOf(db, archive)).hold).toMatchObject({ reason: 'an insurance case' });
    expect(await held()).toContain(archive);
    await liftHold(context, archive);
    expect(await held()).not.toContain(archive);
    await expect(liftHold(context, archive)).rejects.toBeInstanceOf(Failure);
  });
});

describe('a disposal', () => {
  const decide = async (archiveId: ReturnType<typeof newArchiveId>) => {
    const id = randomUUID();
    await unitOfWork(acting, (unit) =>
      recordDecision(unit, {
        ...{ id, archiveId, reason: 'kept long enough', operationId: randomUUID() },
        by: acting.actor.technicianId,
      }),
    );
    return id;
  };
  const known = async (id: string) => (await listDisposals(db)).find((one) => one.id === id);

  test('takes the archive out of every list at once, and owes the end of each copy', async () => {
    const { archive, rack } = await keptArchive(0);
    const id = await decide(archive);
    expect(await dueIds()).not.toContain(archive);
    expect(await db.select().from(archiveRows).where(eq(archiveRows.archiveId, archive))).toEqual(
      [],
    );
    expect(await owedOf(db, id)).toMatchObject([{ rackId: rack }]);
    expect((await known(id))?.doneAt).toBeNull();
    await expect(hold(context, archive, 'too late')).rejects.toBeInstanceOf(Failure);
  });

  test('is done with the last copy, and lets names go where the house rules say so', async () => {
    await db
      .insert(settings)
      .values({ name: 'disposal', value: { forgetsNames: true, forgetAfter: '0' } });
    const { archive, ticket } = await keptArchive(0);
    const id = await decide(archive);
    const nameOf = async () =>
      (await db.select().from(customers).where(eq(customers.id, ticket.customer)))[0]?.name;
    expect(await nameOf()).toMatch(/^Customer/);
    for (const copy of await owedOf(db, id)) {
      await unitOfWork(acting, (unit) => recordEnd(unit, id, copy, true));
    }
    expect(await known(id)).toMatchObject({ customerName: '', owedOn: [], copies: 1 });
    expect((await known(id))?.doneAt).not.toBeNull();
    expect(await nameOf()).toBe('Name let go');
    const [row] = await db.select().from(disposals).where(eq(disposals.id, id));
    expect(row?.deviceName).not.toMatch(/Phone/);
  });

  test('keeps the name of a customer of whom something else is kept', async () => {
    const { archive, ticket } = await keptArchive(0);
    await db.update(tickets).set({ closedAt: null }).where(eq(tickets.id, ticket.ticket));
    const id = await decide(archive);
    for (const copy of await owedOf(db, id)) {
      await unitOfWork(acting, (unit) => recordEnd(unit, id, copy, true));
    }
    expect((await known(id))?.customerName).toMatch(/^Customer/);
  });
});

describe('customers who were not here for years', () => {
  const shop = { ...acting, db } as unknown as Parameters<typeof forgetByAge>[0];
  const nameOf = async (id: string) =>
    (await db.select().from(customers).where(eq(customers.id, id)))[0]?.name;
  const rule = (forgetAfter: '0' | '24') =>
    db
      .update(settings)
      .set({ value: { forgetsNames: false, forgetAfter } })
      .where(eq(settings.name, 'disposal'));
  /** Here so many months ago; the visit is over. */
  async function visitor(months: number, more: { open?: boolean; kept?: boolean } = {}) {
    const at = new Date(clock.now());
    at.setMonth(at.getMonth() - months);
    const ticket = await addTicket();
    await db.update(customers).set({ createdAt: at }).where(eq(customers.id, ticket.customer));
    await db
      .update(tickets)
      .set({ openedAt: at, closedAt: more.open ? null : at })
      .where(eq(tickets.id, ticket.ticket));
    if (more.kept) await addArchive(ticket, await addRack());
    return ticket.customer;
  }

  test('are in no name of a folder either that somebody gave to what was brought in', async () => {
    const customerId = await visitor(30);
    const [visit] = await db.select().from(tickets).where(eq(tickets.customerId, customerId));
    const value = { folder: 'Anna’s phone', rackName: 'Alder' };
    const bringIn = { id: randomUUID(), kind: 'bringIn', state: 'done', phase: 'opening' } as const;
    await db.insert(operations).values({
      ...{ ...bringIn, ticketId: visit?.id ?? null, deviceName: value.folder },
      ...{ input: { version: 1, value }, startedBy: acting.actor.technicianId },
      startedAt: clock.now(),
    });
    await rule('24');
    await forgetByAge(shop);
    const [row] = await db.select().from(operations).where(eq(operations.id, bringIn.id));
    expect(row?.input).toEqual({ version: 1, value: { ...value, folder: 'let-go' } });
    expect(row?.deviceName).toBeNull();
  });

  test('are forgotten by the house rules, and only where nothing of theirs is kept', async () => {
    const old = await visitor(30);
    const serials = await db
      .select({ customerId: tickets.customerId, serial: devices.serial })
      .from(tickets)
      .innerJoin(devices, eq(devices.id, tickets.deviceId));
    // Each was kept in step with its owner's own books.
    for (const { serial } of serials) {
      await db.insert(syncStates).values({
        ...{ id: randomUUID(), serial, partner: 'p', kind: 'contacts', sealed: '' },
        updatedAt: clock.now(),
      });
    }
    const others = [
      await visitor(20),
      await visitor(30, { open: true }),
      await visitor(30, { kept: true }),
    ];
    await rule('0');
    expect(await forgetByAge(shop)).toBe(0);
    await rule('24');
    await forgetByAge(shop);
    expect(await nameOf(old)).toBe('Name let go');
    for (const id of others) expect(await nameOf(id)).toMatch(/^Customer/);
    const left = (await db.select().from(syncStates)).map(({ serial }) => serial);
    for (const { customerId, serial } of serials)
      expect(left.includes(serial), serial).toBe(customerId !== old);
    // Nobody is forgotten twice.
    expect(await forgetByAge(shop)).toBe(0);
    const lines = await db.select().from(audit).where(eq(audit.action, 'names-forgotten'));
    expect(lines.at(-1)?.what).toMatch(/let go: not here for 24 months\.$/);
  });
});
