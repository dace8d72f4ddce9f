import type { ArchiveSort } from '@bright-cellar/contract';
import { archiveSorts } from '@bright-cellar/contract';
import { askOf, problemOf, type ArchiveId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { beforeAll, describe, expect, test } from 'vitest';
import { PAGE_ROWS } from '../database/page.js';
import {
  archiveRows,
  archives,
  backups,
  copies,
  proofs,
  racks,
  tickets,
} from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newRackId } from '../testing/ids.js';
import { findArchives, listArchives, summariseArchives } from './list.js';
import { makeMissingRows } from './rows.js';
import { sumAll } from './sums.js';

const { db, acting, clock, addTicket, addRack, addArchive, addProof } = await testCatalogue();
const COUNT = 2 * PAGE_ROWS + 7;
let alder = newRackId();
const all: Awaited<ReturnType<typeof addArchive>>[] = [];

beforeAll(async () => {
  alder = await addRack('Alder');
  for (let n = 0; n < COUNT; n++) {
    // Many are alike in whatever they are sorted by.
    const ticket = await addTicket({ customer: `Customer ${n % 5}`, device: `Phone_${n % 3}` });
    const takenAt = new Date(clock.now().getTime() + (n % 9) * 1000);
    all.push(await addArchive(ticket, alder, { items: n % 4, bytes: n % 6, takenAt }));
  }
});

const usual = { text: '', sort: 'taken' as ArchiveSort, order: 'desc' as const, after: '' };

/** Every page, as somebody sees them who scrolls to the end. */
async function pages(ask: Partial<Parameters<typeof listArchives>[1]>) {
  const found = [];
  let after: string | null = '';
  while (after !== null) {
    const page: Awaited<ReturnType<typeof listArchives>> = await listArchives(
      db,
      {
        ...{ ...usual, ...ask, after },
      },
      clock.now(),
    );
    found.push(page);
    after = page.next;
  }
  return { rows: found.flatMap(({ rows }) => rows), count: found.length, total: found[0]?.total };
}

describe.each(archiveSorts)('sorted by %s', (sort) => {
  test.each(['asc', 'desc'] as const)('%s, every archive is on one page, once', async (order) => {
    const { rows, count, total } = await pages({ sort, order });
    expect(count).toBe(3);
    expect(total).toBe(COUNT);
    expect(new Set(rows.map(({ id }) => id)).size).toBe(COUNT);
  });
});

test('it is in the order that was asked for', async () => {
  const { rows } = await pages({ sort: 'bytes', order: 'asc' });
  expect(rows.map(({ bytes }) => bytes)).toEqual(
    rows.map(({ bytes }) => bytes).sort((a, b) => a - b),
  );
  const newest = await pages({});
  const taken = newest.rows.map(({ takenAt }) => takenAt);
  expect(taken).toEqual([...taken].sort().reverse());
});

test('a row that comes while somebody scrolls moves none of the others onto a second page', async () => {
  const first = await listArchives(db, usual, clock.now());
  const later = new Date(clock.now().getTime() + 60_000);
  const added = await addArchive(await addTicket(), alder, { takenAt: later });
  const second = await listArchives(db, { ...usual, after: first.next ?? '' }, clock.now());
  const ids = new Set(first.rows.map(({ id }) => id));
  expect(second.rows.filter(({ id }) => ids.has(id))).toEqual([]);
  await db.delete(archiveRows).where(eq(archiveRows.archiveId, added.archive));
  await db.delete(backups).where(eq(backups.archiveId, added.archive));
  await db.delete(copies).where(eq(copies.archiveId, added.archive));
  await db.delete(archives).where(eq(archives.id, added.archive));
  await sumAll(db);
});

test('letters are found wherever they stand, signs of a pattern as they are, and a page of them is counted whole', async () => {
  const third = new Set((await pages({ text: 'CUSTOMER 3' })).rows.map(({ id }) => id));
  const theirs = all.filter((_, n) => n % 5 === 3);
  expect(theirs.every(({ archive }) => third.has(archive))).toBe(true);
  expect(third.size).toBeLessThan(COUNT);
  expect(
    (await pages({ text: 'hone_1', sort: 'device', order: 'asc' })).rows.every(
      (r) => r.device.name === 'Phone_1',
    ),
  ).toBe(true);
  expect((await pages({ text: 'ph%ne_1' })).total).toBe(0);
  expect((await pages({ text: 'alder' })).total).toBe(COUNT);
  expect((await findArchives(db, askOf('phone_2', clock.now()), 4)).rows).toHaveLength(4);
  expect((await pages({ text: 'nobody' })).rows).toEqual([]);
});

test.each(['x', 'bm90IGpzb24', Buffer.from('[{},1]').toString('base64url')])(
  'a place in the list that is none (%s) is refused',
  async (after) => {
    const refused = await listArchives(db, { ...usual, after }, clock.now()).then(
      () => null,
      problemOf,
    );
    expect(refused?.code).toBe('input-not-valid');
  },
);

describe('what is kept of an archive', () => {
  const rowOf = async (id: ArchiveId) =>
    (await db.select().from(archiveRows).where(eq(archiveRows.archiveId, id)))[0];
  const [one] = [0];

  test('follows its proofs: whole, then damaged, and only a full reading proves', async () => {
    const archive = all[one];
    if (!archive) throw new Error('no archive');
    expect(await rowOf(archive.archive)).toMatchObject({ proof: 'unproven', provenAt: null });
    await addProof(archive, 'whole', 'bytes');
    expect(await rowOf(archive.archive)).toMatchObject({ proof: 'unproven' });
    await addProof(archive, 'whole');
    expect(await rowOf(archive.archive)).toMatchObject({ proof: 'proven', provenAt: clock.now() });
    expect(await summariseArchives(db)).toMatchObject({ unproven: COUNT - 1, damaged: null });
    await addProof(archive, 'damaged');
    expect(await rowOf(archive.archive)).toMatchObject({ proof: 'damaged', provenAt: null });
    expect((await summariseArchives(db)).damaged?.id).toBe(archive.archive);
    await db.delete(proofs);
  });

  test('what lies on a rack is counted and added up again when an archive changes', async () => {
    const [, changed] = all;
    if (!changed) throw new Error('no archive');
    const [before] = await db.select().from(racks).where(eq(racks.id, alder));
    expect(before).toMatchObject({ archives: COUNT, storedBytes: COUNT * 500 });
    await unitOfWork(acting, async (unit) => {
      await unit.tx.update(copies).set({ storedBytes: 1500 }).where(eq(copies.id, changed.copy));
      unit.changed('archive', changed.archive);
    });
    const [after] = await db.select().from(racks).where(eq(racks.id, alder));
    expect(after?.storedBytes).toBe(COUNT * 500 + 1000);
  });

  test('is made where it is missing: of a catalogue from before there was any', async () => {
    const ids = all.slice(0, 3).map(({ archive }) => archive);
    for (const id of ids) await db.delete(archiveRows).where(eq(archiveRows.archiveId, id));
    await makeMissingRows(db);
    expect((await pages({})).total).toBe(COUNT);
  });
});

test('is found by words in any order, by what was noted at intake, and by when it was taken', async () => {
  const ticket = await addTicket({ customer: 'Orla Wickbank', device: 'Slate' });
  await db
    .update(tickets)
    .set({ notes: 'grey, a dent at the top left' })
    .where(eq(tickets.id, ticket.ticket));
  const takenAt = new Date('2026-04-09T10:00:00Z');
  const { archive } = await addArchive(ticket, alder, { takenAt });
  await addArchive(await addTicket({ customer: 'Somebody else', device: 'Board' }), alder);
  const found = async (text: string) =>
    (await listArchives(db, { ...usual, text }, clock.now())).rows.map(({ id }) => id);
  for (const text of [
    ...['wickbank orla', 'The one from spring, the grey phone', 'slate before summer 2026'],
    ...['dent april 2026', 'orla 9 apr 2026', `${ticket.number} since 2026-04`],
  ]) {
    expect(await found(text), text).toEqual([archive]);
  }
  for (const text of ['orla last winter', 'green slate', 'wickbank before easter 2026']) {
    expect(await found(text), text).toEqual([]);
  }
  // A word that nothing has is read as the nearest that there is, and that is said.
  for (const [text, readAs] of [
    ['wikbank', 'wickbank'],
    ['olra slaet', 'orla, slate'],
  ] as const) {
    const page = await listArchives(db, { ...usual, text }, clock.now());
    expect(page).toMatchObject({ total: 1, readAs });
    const ask = askOf(text, clock.now());
    expect(await findArchives(db, ask, 4)).toMatchObject({
      readAs,
      rows: [{ archiveId: archive }],
    });
  }
  expect(await found('99999999 wickbank')).toEqual([]);
});

test('what was typed is found where it was noted, however much newer is what else may be meant', async () => {
  const old = await addTicket({ customer: 'Tamsin Reedholm' });
  await db.update(tickets).set({ notes: 'from a Mr Quilfether' }).where(eq(tickets.id, old.ticket));
  const { archive } = await addArchive(old, alder, { takenAt: new Date('2025-02-03T10:00:00Z') });
  const another = await addTicket({ customer: 'Ada Quillfether' });
  const newer = [];
  for (let n = 0; n < 5; n++) newer.push((await addArchive(another, alder)).archive);
  const find = async (text: string) => findArchives(db, askOf(text, clock.now()), 3);
  const typed = await find('quilfether');
  expect(typed).toMatchObject({ readAs: '', rows: [{ archiveId: archive }] });
  expect(typed.rows).toHaveLength(1);
  const meant = await find('quillfehter');
  expect(meant.readAs).toBe('quillfether');
  expect(meant.rows).toHaveLength(3);
  for (const { archiveId } of meant.rows) expect(newer).toContain(archiveId);
});
