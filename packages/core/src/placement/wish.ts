import { z } from 'zod';
import {
  byteCountSchema,
  copyIdSchema,
  deviceIdSchema,
  idSchema,
  instantSchema,
  rackIdSchema,
  type CopyId,
  type RackId,
} from '../values/index.js';
import type { Stock, StockArchive } from './stock.js';

/** What somebody wants of what lies where. */
export const wishSchema = z.discriminatedUnion('kind', [
  /** So many bytes free on a rack, beside its reserve. */
  z.object({ kind: z.literal('room'), rackId: rackIdSchema, bytes: byteCountSchema }),
  z.object({ kind: z.literal('empty'), rackId: rackIdSchema }),
  z.object({ kind: z.literal('spread'), rackIds: z.array(rackIdSchema).min(2) }),
  /** Of every archive with nothing newer, one copy onto a rack. */
  z.object({ kind: z.literal('older'), before: instantSchema, rackId: rackIdSchema }),
  z.object({ kind: z.literal('customer'), customerId: idSchema, rackId: rackIdSchema }),
  /** The archives of one device on one rack, whichever costs least. */
  z.object({ kind: z.literal('together'), deviceId: deviceIdSchema }),
  /** Nothing beside what is moved by hand. */
  z.object({ kind: z.literal('by-hand') }),
]);
export type Wish = z.infer<typeof wishSchema>;
export type WishKind = Wish['kind'];

/** A copy that somebody put on a rack by hand, or wants to stay where it is. */
export const pinSchema = z.object({ copyId: copyIdSchema, rackId: rackIdSchema });
export type Pin = z.infer<typeof pinSchema>;

/** What is to be true in the end. */
export interface Goal {
  /** Of each of these, one lies on that rack. */
  bring: { copies: readonly CopyId[]; rackId: RackId }[];
  /** No more than so many bytes of copies lie there. */
  atMost: ReadonlyMap<RackId, number>;
  /** Racks that nothing is put on, but by hand. */
  closed: ReadonlySet<RackId>;
}

const nothing: Goal = { bring: [], atMost: new Map(), closed: new Set() };
/** Racks are as evenly filled as this share of all that lies on them; else twice as much, and so on. */
const EVEN = [0.01, 0.03, 0.1, 0.25];

/** Ends that a wish would be content with. None where it is about nothing that is there. */
export interface Goals {
  goals: Goal[];
  /** The first that can be reached, or of all of them the one that costs least. */
  take: 'first' | 'any';
}

export function goalsOf(stock: Stock, wish: Wish): Goals {
  const first = (...goals: Goal[]): Goals => ({ goals, take: 'first' });
  switch (wish.kind) {
    case 'by-hand':
      return first(nothing);
    case 'empty': {
      // What is damaged cannot go; it is said, and stays.
      const stays = sumOn(stock, wish.rackId, ({ damaged }) => damaged);
      return first({ ...nothing, atMost: new Map([[wish.rackId, stays]]) });
    }
    case 'room': {
      const rack = stock.racks.find(({ id }) => id === wish.rackId);
      if (!rack) return first();
      const short = wish.bytes - (rack.free - rack.reserve);
      const most = sumOn(stock, rack.id) - Math.max(0, short);
      // Something may go there all the same, where that lets more go from there.
      return first({ ...nothing, atMost: new Map([[rack.id, most]]) });
    }
    case 'spread':
      return first(...EVEN.map((share) => evenly(stock, wish.rackIds, share)));
    case 'older':
      return first(bringAll(stock, wish.rackId, ({ takenAt }) => takenAt < wish.before));
    case 'customer':
      return first(
        bringAll(stock, wish.rackId, ({ customerId }) => customerId === wish.customerId),
      );
    case 'together':
      return {
        goals: stock.racks
          .filter(({ here }) => here)
          .map(({ id }) => bringAll(stock, id, ({ deviceId }) => deviceId === wish.deviceId)),
        take: 'any',
      };
  }
}

const sumOn = (
  stock: Stock,
  rackId: RackId,
  which: (copy: { damaged: boolean }) => boolean = () => true,
) =>
  stock.copies
    .filter((copy) => copy.rackId === rackId && which(copy))
    .reduce((sum, { bytes }) => sum + bytes, 0);

function bringAll(stock: Stock, rackId: RackId, which: (archive: StockArchive) => boolean): Goal {
  const wanted = new Set(stock.archives.filter(which).map(({ id }) => id));
  const here = new Set(stock.racks.filter((rack) => rack.here).map(({ id }) => id));
  const byArchive = new Map<string, CopyId[]>();
  for (const { id, archiveId, rackId: lies, damaged } of stock.copies) {
    // What is nowhere here, or not whole, cannot be brought now.
    const can = lies === rackId || (here.has(lies) && !damaged);
    if (can && wanted.has(archiveId))
      byArchive.set(archiveId, [...(byArchive.get(archiveId) ?? []), id]);
  }
  return { ...nothing, bring: [...byArchive.values()].map((copies) => ({ copies, rackId })) };
}

/** Archives that a wish is about and that cannot go now: on racks that are away, or damaged. */
export function leftOut(stock: Stock, wish: Wish): number {
  if (wish.kind === 'empty') {
    return stock.copies.filter(({ rackId, damaged }) => rackId === wish.rackId && damaged).length;
  }
  const wanted = stock.archives.filter(
    (archive) =>
      (wish.kind === 'older' && archive.takenAt < wish.before) ||
      (wish.kind === 'customer' && archive.customerId === wish.customerId) ||
      (wish.kind === 'together' && archive.deviceId === wish.deviceId),
  ).length;
  const [goal] = goalsOf(stock, wish).goals;
  return wanted === 0 || !goal ? 0 : wanted - goal.bring.length;
}

/** Each as full as the others, by what may lie there. */
function evenly(stock: Stock, rackIds: readonly RackId[], share: number): Goal {
  const racks = stock.racks.filter(({ id }) => rackIds.includes(id));
  const own = (id: RackId) => sumOn(stock, id);
  const all = racks.map((rack) => ({
    id: rack.id,
    may: Math.max(0, own(rack.id) + rack.free - rack.reserve),
  }));
  const lying = racks.reduce((sum, { id }) => sum + own(id), 0);
  const may = all.reduce((sum, rack) => sum + rack.may, 0);
  const atMost = new Map(
    all.map((rack) => [rack.id, Math.ceil((rack.may / Math.max(1, may) + share) * lying)]),
  );
  const others = stock.racks.filter(({ id }) => !rackIds.includes(id)).map(({ id }) => id);
  return { ...nothing, atMost, closed: new Set(others) };
}
