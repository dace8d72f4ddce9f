import { randomUUID } from 'node:crypto';
import { realpath } from 'node:fs/promises';
import { isAbsolute, relative } from 'node:path';
import { diskFailure, hostKeyOf, markRack, openStore, rackRoom } from '@bright-cellar/archive';
import type { BodyOf, Rack, RackPlace, routes, TriedRack } from '@bright-cellar/contract';
import { Failure, rackIdSchema, type RackId, type RackSite } from '@bright-cellar/core';
import { and, eq, isNull, ne } from 'drizzle-orm';
import { isDuplicate, type Database } from '../database/connect.js';
import { racks } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context, Shop } from '../shop.js';
import { keptAddress, mountedAt, storeAddress } from './addresses.js';
import { mountedDrives } from './drives.js';
import { tryRackOrder } from './orders.js';
import { shownRack } from './racks.js';
import { refreshArchivesOn } from './recount.js';
import { folderStore } from './stores.js';

/** Drives and shares that are mounted and are not racks in use. */
export async function rackPlaces(
  { db }: Pick<Shop, 'db'>,
  places: readonly string[],
): Promise<RackPlace[]> {
  const known = await db.select().from(racks);
  const found: RackPlace[] = [];
  for (const { path, rack } of await mountedDrives(places)) {
    if (known.some(({ id, retiredAt }) => id === rack && retiredAt === null)) continue;
    const place = await shownPlace({ path });
    const marked = known.find(({ id }) => id === rack)?.name ?? (rack && 'a rack of another shop');
    if (place) found.push({ ...place, marked });
  }
  return found;
}

/** Where something is mounted, with its room; null where it says nothing of that. */
export async function shownPlace({ path }: { path: string }) {
  const room = await folderStore(path)
    .room()
    .catch(() => null);
  return room && { path, ...room };
}

/** Tries a place as archives would use it. @throws Failure `input-not-valid`, `already-exists`, and what the medium says */
export async function tryRack(
  context: Context,
  { site, secret }: BodyOf<typeof routes.tryRack>,
): Promise<TriedRack> {
  const address = storeAddress(await siteFor(context, site), secret);
  const { room, ...tried } = await context.orders.ask(tryRackOrder, { address });
  return { ...room, ...tried };
}

/** @throws Failure `rack-not-here` where no box answers */
export async function hostKey(box: BodyOf<typeof routes.hostKey>): Promise<{ hostKey: string }> {
  try {
    return { hostKey: await hostKeyOf(box) };
  } catch (error) {
    const what = `Nothing that speaks SSH answers at ${box.host}, port ${box.port}.`;
    const next = 'Check its name and port, and that it is switched on.';
    throw new Failure('rack-not-here', { what, next }, { cause: error });
  }
}

/**
 * Makes a rack of a place. One that lies there already, retired here or from another shop, is taken up as it is: its
 * archives stay; one that is in use and reached over the network is reached as is said now.
 * @throws Failure `input-not-valid`, `already-exists`, and what the medium says
 */
export async function addRack(
  context: Context,
  { site: wanted, secret, ...rules }: BodyOf<typeof routes.addRack>,
): Promise<Rack> {
  const site = await siteFor(context, wanted);
  const store = openStore(storeAddress(site, secret));
  const marked = rackIdSchema.safeParse(await store.identity()).data;
  const id = marked ?? rackIdSchema.parse(randomUUID());
  const room = await (async () => {
    if (!marked) await markRack(store, id);
    return rackRoom(store, id);
  })().catch((error: unknown) => {
    throw diskFailure(error);
  });
  const address = keptAddress(site, site.kind === 'folder' ? null : secret);
  const row = { ...rules, address, retiredAt: null };
  const seen = { present: true, ...room, seenAt: context.clock.now(), awayWhy: '' };
  await named(rules.name, () =>
    unitOfWork(context, async (unit) => {
      const taken = await unit.tx
        .update(racks)
        .set({ ...row, ...seen })
        .where(eq(racks.id, id));
      if (taken[0].affectedRows === 0) {
        await unit.tx.insert(racks).values({ id, ...row, ...seen });
      }
      await refreshArchivesOn(unit.tx, id);
      unit.note({ action: 'rack-added', what: `The rack ${rules.name} was added.` });
      unit.changed('rack', id);
      unit.changed('rack');
      unit.changed('care');
    }),
  );
  return rackNow(context, id);
}

/** @throws Failure `not-found`, `already-exists` */
export async function changeRack(
  context: Context,
  id: RackId,
  rules: BodyOf<typeof routes.changeRack>,
): Promise<Rack> {
  const { name, offPremises } = await rackNow(context, id);
  await named(rules.name, () =>
    unitOfWork(context, async (unit) => {
      await unit.tx.update(racks).set(rules).where(eq(racks.id, id));
      if (rules.offPremises !== offPremises) await refreshArchivesOn(unit.tx, id);
      const renamed = name === rules.name ? '' : ` It is called ${rules.name} now.`;
      unit.note({ action: 'rack-changed', what: `The rack ${name} was changed.${renamed}` });
      unit.changed('rack', id);
      unit.changed('care');
    }),
  );
  return rackNow(context, id);
}

/**
 * Puts a rack out of use. What lies there stays there and stays known, counts as nobody's copy any more, and is back when
 * the rack is added again.
 * @throws Failure `not-found`, `input-not-valid` where archives lie there and its name was not typed
 */
export async function retireRack(context: Context, id: RackId, typedName: string): Promise<void> {
  const { name, archives } = await rackNow(context, id);
  if (archives > 0 && typedName.trim() !== name) {
    throw new Failure('input-not-valid', {
      what: 'Archives lie on this rack.',
      safe: 'It is in use as before.',
      next: 'Type its name, exactly as it stands there, to put it out of use all the same.',
    });
  }
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .update(racks)
      .set({ retiredAt: unit.now, present: false })
      .where(eq(racks.id, id));
    await refreshArchivesOn(unit.tx, id);
    unit.note({ action: 'rack-retired', what: `The rack ${name} was put out of use.` });
    unit.changed('rack', id);
    unit.changed('rack');
    unit.changed('care');
  });
}

async function rackNow({ db }: Pick<Shop, 'db'>, id: RackId): Promise<Rack> {
  const [row] = await db.select().from(racks).where(eq(racks.id, id));
  if (!row || row.retiredAt) throw new Failure('not-found');
  return shownRack(row);
}

/** @throws Failure `already-exists` where another rack has that name */
async function named<T>(name: string, write: () => Promise<T>): Promise<T> {
  try {
    return await write();
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw new Failure(
      'already-exists',
      {
        what: `Another rack is called ${name}.`,
        safe: 'Nothing was changed.',
        next: 'Give it another name.',
      },
      { cause: error },
    );
  }
}

/** A place that may become a rack. @throws Failure `input-not-valid`, `already-exists` */
async function siteFor(shop: Pick<Shop, 'db'>, site: RackSite): Promise<RackSite> {
  return site.kind === 'folder' ? folderFor(shop, site.path) : site;
}

async function folderFor({ db }: Pick<Shop, 'db'>, wanted: string): Promise<RackSite> {
  const refuse = (what: string) =>
    new Failure('input-not-valid', {
      what,
      safe: 'Nothing was written there.',
      next: 'Say the whole path of a folder that is there, as this computer sees it.',
    });
  if (!isAbsolute(wanted)) throw refuse('That is not the path of a folder.');
  const path = await realpath(wanted).catch(() => null);
  if (path === null) throw refuse('No such folder is there.');
  const marked = await folderStore(path)
    .identity()
    .catch(() => null);
  const others = await db
    .select()
    .from(racks)
    .where(marked ? ne(racks.id, rackIdSchema.parse(marked)) : undefined);
  for (const other of others.filter(({ retiredAt }) => retiredAt === null)) {
    const mounted = mountedAt(other.address);
    if (mounted === null || (!isWithin(path, mounted) && !isWithin(mounted, path))) continue;
    throw new Failure('already-exists', {
      what: `That folder and the rack ${other.name} lie in each other.`,
      next: 'Choose a folder of its own.',
    });
  }
  const [known] = marked
    ? await db
        .select()
        .from(racks)
        .where(and(eq(racks.id, rackIdSchema.parse(marked))))
    : [];
  if (known?.retiredAt === null) {
    throw new Failure('already-exists', {
      what: `That is the rack ${known.name}, and it is in use.`,
      next: 'There is nothing to do: it is found wherever it is mounted.',
    });
  }
  return { kind: 'folder', path };
}

/** Racks in use that a folder lies on, or that lie below it, by name. */
export async function racksAround(db: Database, folder: string): Promise<string[]> {
  const used = await db.select().from(racks).where(isNull(racks.retiredAt));
  return used.flatMap(({ name, address }) => {
    const mounted = mountedAt(address);
    const isAround = mounted !== null && (isWithin(folder, mounted) || isWithin(mounted, folder));
    return isAround ? [name] : [];
  });
}

/** Whether one path is another, or lies below it. */
export function isWithin(path: string, folder: string): boolean {
  const way = relative(folder, path);
  return way === '' || (!way.startsWith('..') && !isAbsolute(way));
}
