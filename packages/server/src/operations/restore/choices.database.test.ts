import { eq } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { backupForWork } from '../../archives/index.js';
import { backups, tickets } from '../../database/schema.js';
import { testCatalogue } from '../../testing/catalogue.js';
import { choicesBeside, choicesForTicket } from './choices.js';

const { db, clock, addTicket, addVisit, addRack, addArchive } = await testCatalogue();
const rack = await addRack('Alder');
const close = (number: string) =>
  db.update(tickets).set({ closedAt: clock.now() }).where(eq(tickets.number, number));
const ticketOf = async (backup: Awaited<ReturnType<typeof addArchive>>['backup']) =>
  (await backupForWork(db, backup)).ticket.number;

test('who comes again works on the ticket that is open now, with every backup of the device', async () => {
  const first = await addTicket();
  const { backup } = await addArchive(first, rack);
  await close(first.number);
  expect(await ticketOf(backup)).toBe(first.number);
  const second = await addVisit(first);
  expect(await ticketOf(backup)).toBe(second.number);
  const { backups: told } = await choicesForTicket({ db }, second.number);
  expect(told.map(({ id, ticketNumber }) => [id, ticketNumber])).toEqual([[backup, first.number]]);
  const later = await addArchive(second, rack, { takenAt: new Date(clock.now().getTime() + 1000) });
  const beside = await choicesBeside({ db }, backup);
  expect(beside.backups.map(({ id }) => id)).toEqual([later.backup, backup]);
  await close(second.number);
  expect(await ticketOf(later.backup)).toBe(second.number);
  expect(await ticketOf(backup)).toBe(first.number);
});

test('a backup of a later visit in an archive of an earlier one is told of its own', async () => {
  const first = await addTicket();
  const { backup } = await addArchive(first, rack);
  await close(first.number);
  const second = await addVisit(first);
  await db.update(backups).set({ ticketId: second.ticket }).where(eq(backups.id, backup));
  const { backups: told } = await choicesForTicket({ db }, second.number);
  expect(told.map(({ ticketNumber }) => ticketNumber)).toEqual([second.number]);
});

test('who has the device now is shown nothing of who had it before', async () => {
  const before = await addTicket();
  const { backup } = await addArchive(before, rack);
  const now = await addVisit({ ...before, customer: (await addTicket()).customer });
  expect((await choicesForTicket({ db }, now.number)).backups).toEqual([]);
  expect(await ticketOf(backup)).toBe(before.number);
  const own = await addArchive(now, rack);
  expect((await choicesBeside({ db }, backup)).backups.map(({ id }) => id)).toEqual([backup]);
  expect((await choicesBeside({ db }, own.backup)).backups.map(({ id }) => id)).toEqual([
    own.backup,
  ]);
});
