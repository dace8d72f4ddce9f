import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { markRack, openStore, type StoreAddress } from '@bright-cellar/archive';
import { copyCounts, operations, owedTo, type CareRules, type RackId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, describe, expect, test } from 'vitest';
import {
  archiveRows,
  copies,
  operationLocks,
  operations as operationRows,
  racks,
} from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { makeLog } from '../log.js';
import { keptAddress } from '../racks/index.js';
import { readSettings, saveSettings } from '../settings/settings.js';
import type { Context, Shop } from '../shop.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newCopyId } from '../testing/ids.js';
import { Care } from './care.js';

/** What begins by itself, and when. */

const { db, acting, clock, addTicket, addRack, addArchive } = await testCatalogue();
const folder = await mkdtemp(join(tmpdir(), 'cellar-care-'));
afterAll(() => rm(folder, { recursive: true }));
/** Orders are taken, and nobody does them: what was started stands in the rows. */
const orders = { start: async () => undefined };
const context = { ...acting, orders } as unknown as Context;
const shop = context as Shop;
const HOUR_MS = 3_600_000;

async function rules(change: Partial<CareRules>): Promise<void> {
  const settings = await readSettings(db);
  await saveSettings(context, { ...settings, care: { ...settings.care, ...change } });
}
/** Quiet from one hour on, for one hour, counted from now. */
const quietIn = (hours: number) => {
  const minute = clock.now().getHours() * 60 + hours * 60;
  return rules({ quietHours: { from: minute, to: minute + 60 } });
};

async function realRack(): Promise<Awaited<ReturnType<typeof addRack>>> {
  const id = await addRack();
  const path = join(folder, id);
  await mkdir(path);
  const address: StoreAddress = { kind: 'folder', path };
  const store = openStore(address);
  await markRack(store, id);
  const room = await store.room();
  await db
    .update(racks)
    .set({ address: keptAddress(address), present: true, ...room })
    .where(eq(racks.id, id));
  return id;
}

/** An archive on a rack that is here, looked at so many days ago; null: never. */
async function kept(rackId: Awaited<ReturnType<typeof addRack>>, daysAgo: number | null) {
  const archive = await addArchive(await addTicket(), rackId);
  await mkdir(join(folder, rackId, archive.archive));
  const checkedAt =
    daysAgo === null ? null : new Date(clock.now().getTime() - daysAgo * 24 * HOUR_MS);
  await db.update(copies).set({ checkedAt }).where(eq(copies.id, archive.copy));
  return archive;
}

const started = async () =>
  (await db.select().from(operationRows)).map(({ kind, archiveId }) => ({ kind, archiveId }));
/** What was started ends, as if it had been done. */
async function ends(): Promise<void> {
  await db.delete(operationLocks);
  await db.update(operationRows).set({ state: 'done', endedAt: clock.now() });
}
let care: Care;

beforeEach(async () => {
  await db.delete(operationLocks);
  await db.delete(operationRows);
  await db.delete(archiveRows);
  await db.delete(copies);
  await rules({ copies: '1', offPremises: false, checkEvery: '90', copiesByThemselves: true });
  await quietIn(0);
  care = new Care(shop, makeLog('server', 'silent'), true);
});

describe('checks', () => {
  test('begin in quiet hours, one at a time, with what nobody ever looked at, then the oldest look', async () => {
    const rack = await realRack();
    const [old, recent, never] = [
      await kept(rack, 120),
      await kept(rack, 5),
      await kept(rack, null),
    ];
    await care.look();
    expect(await started()).toEqual([{ kind: 'check', archiveId: never.archive }]);
    await care.look();
    expect(await started()).toHaveLength(1);
    await ends();
    await care.look();
    expect((await started()).map(({ archiveId }) => archiveId).sort()).toEqual(
      [never.archive, old.archive].sort(),
    );
    await ends();
    await care.look();
    expect(await started()).not.toContainEqual({ kind: 'check', archiveId: recent.archive });
  });

  test('wait for quiet hours, and for nothing where they are not wanted', async () => {
    await kept(await realRack(), null);
    await quietIn(2);
    await care.look();
    expect(await started()).toEqual([]);
    clock.forward(2.5 * HOUR_MS);
    await rules({ checkEvery: 'never' });
    await care.look();
    expect(await started()).toEqual([]);
    await rules({ checkEvery: '30' });
    await care.look();
    expect(await started()).toHaveLength(1);
  });

  test('of what is away, or out of use, do not begin; another does', async () => {
    const [away, retired, here] = [await realRack(), await realRack(), await realRack()];
    await kept(away, null);
    await kept(retired, null);
    const { archive } = await kept(here, 100);
    await db.update(racks).set({ present: false }).where(eq(racks.id, away));
    await db.update(racks).set({ retiredAt: clock.now() }).where(eq(racks.id, retired));
    await care.look();
    expect(await started()).toEqual([{ kind: 'check', archiveId: archive }]);
  });

  test('nothing begins by itself where the installation says so', async () => {
    await kept(await realRack(), null);
    await new Care(shop, makeLog('server', 'silent'), false).look();
    expect(await started()).toEqual([]);
  });
});

describe('owed copies', () => {
  test('are made before checks, each onto a rack that does not have it, until none is owed', async () => {
    const [one, other] = [await realRack(), await realRack()];
    await db.update(racks).set({ reserve: 0 });
    const { archive } = await kept(one, 1);
    await rules({ copies: '2' });
    expect((await care.view()).owed).toMatchObject({ total: 1, rows: [{ archiveId: archive }] });
    await care.look();
    expect(await started()).toEqual([{ kind: 'copy', archiveId: archive }]);
    const [row] = await db.select().from(operationRows);
    const input = operations.copy.input.parse(
      (row?.input as { value: unknown } | undefined)?.value,
    );
    expect(input.to.rackId).not.toBe(one);
    // Tried for nothing: it is not tried again at once.
    await ends();
    await care.look();
    expect((await started()).filter(({ kind }) => kind === 'copy')).toHaveLength(1);
    expect(other).not.toBe(one);
  });

  test('wait to be asked for where they are not to begin by themselves; then quiet hours do not matter', async () => {
    const one = await realRack();
    await realRack();
    await kept(one, 1);
    await rules({ copies: '2', copiesByThemselves: false });
    await care.look();
    expect(await started()).toEqual([]);
    await quietIn(3);
    expect(await care.pay()).toMatchObject({ paying: true });
    expect((await started()).map(({ kind }) => kind)).toEqual(['copy']);
    await ends();
    await care.look();
    expect(await care.view()).toMatchObject({ paying: false });
  });

  test('a copy that is damaged, or older, or out of use counts as none', async () => {
    const [one, other] = [await realRack(), await realRack()];
    const { archive } = await kept(one, 1);
    const second = newCopyId();
    await db.insert(copies).values({
      ...{ id: second, archiveId: archive, rackId: other, folder: archive, storedBytes: 500 },
      ...{ generation: 1, createdAt: clock.now() },
    });
    await rules({ copies: '2' });
    const owed = async (change: Partial<typeof copies.$inferInsert>) => {
      await unitOfWork(acting, async (unit) => {
        await unit.tx.update(copies).set(change).where(eq(copies.id, second));
        unit.changed('archive', archive);
      });
      return (await care.view()).owed.total;
    };
    expect(await owed({ state: 'whole' })).toBe(0);
    expect(await owed({ state: 'damaged' })).toBe(1);
    expect(await owed({ state: 'whole', generation: 0 })).toBe(1);
    expect(await owed({ generation: 1 })).toBe(0);
    // However few are asked for, one that is older is owed what is new.
    await rules({ copies: '1' });
    expect(await owed({ generation: 0 })).toBe(1);
    expect(await owed({ generation: 1 })).toBe(0);
    await rules({ copies: '2' });
    await db.update(racks).set({ retiredAt: clock.now() }).where(eq(racks.id, other));
    expect(await owed({ state: 'whole' })).toBe(1);
  });
});

/** An archive with a copy on each of two racks. */
async function keptTwice(...[rack, other]: [RackId, RackId]) {
  const ids = await kept(rack, 5);
  const [first] = await db.select().from(copies).where(eq(copies.id, ids.copy));
  if (!first) throw new Error('no copy');
  await db.insert(copies).values({ ...first, id: newCopyId(), rackId: other });
  await unitOfWork(acting, async (unit) => unit.changed('archive', ids.archive));
  return ids;
}

test('however many find no room, what fits is copied', async () => {
  const [here, other] = [await realRack(), await realRack(), await realRack()];
  await rules({ copies: '3' });
  const ticket = await addTicket();
  // Those with the fewest copies come first.
  for (let n = 0; n < 110; n++) await addArchive(ticket, here, { storedBytes: 1e15 });
  const { archive } = await keptTwice(here, other);
  await care.look();
  expect(await started()).toEqual([{ kind: 'copy', archiveId: archive }]);
});

test('however many are owed of what is away, what can be read is copied', async () => {
  const [away, here, other] = [await realRack(), await realRack(), await realRack()];
  await realRack();
  await rules({ copies: '3' });
  const ticket = await addTicket();
  // Those with the fewest copies come first.
  for (let n = 0; n < 110; n++) await addArchive(ticket, away);
  const { archive } = await keptTwice(here, other);
  await db.update(racks).set({ present: false }).where(eq(racks.id, away));
  await care.look();
  expect(await started()).toEqual([{ kind: 'copy', archiveId: archive }]);
  const { owed } = await care.view();
  expect(owed.rows.find(({ rackName }) => rackName === null)?.why).toMatch(
    /^Connect .*, where it lies\.$/,
  );
});

test('however copies are spread, as many are owed as one by one, and those with the fewest come first', async () => {
  const [here, ticket] = [await realRack(), await addTicket()];
  for (const goodCopies of [0, 1, 2, 3])
    for (const offPremises of [false, true])
      for (const olderCopies of [0, 1]) {
        const { archive } = await addArchive(ticket, here);
        const spread = { goodCopies, offPremises, olderCopies };
        await db.update(archiveRows).set(spread).where(eq(archiveRows.archiveId, archive));
      }
  const all = await db.select().from(archiveRows);
  for (const wanted of copyCounts)
    for (const offPremises of [false, true]) {
      await rules({ copies: wanted, offPremises });
      const owed = all.filter(({ goodCopies: count, offPremises: off, olderCopies: older }) =>
        owedTo({ count, offPremises: off, older }, { copies: wanted, offPremises }),
      );
      const seen = (await care.view()).owed;
      expect(seen).toMatchObject({ total: owed.length, isMore: false });
      const copiesOf = (id: string) => all.find((row) => row.archiveId === id)?.goodCopies;
      const shown = seen.rows.map(({ archiveId }) => archiveId);
      expect(shown.toSorted()).toEqual(owed.map(({ archiveId }) => archiveId).toSorted());
      expect(shown.map(copiesOf)).toEqual(shown.map(copiesOf).toSorted());
    }
});
