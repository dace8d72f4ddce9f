import { rackIdSchema, archiveIdSchema, type RackId } from '@bright-cellar/core';
import {
  wishSchema,
  type Pin,
  type Stock,
  type Wish,
  type WishKind,
} from '@bright-cellar/core/placement';
import { z } from 'zod';

/** What is wished, as it is typed: some of it may be missing yet. */
export interface Wished {
  kind: WishKind;
  rack: string;
  other: string;
  /** Gigabytes, as they are typed. */
  gigabytes: string;
  /** A day. */
  before: string;
  customer: string;
  device: string;
}

export const wishNames: Record<WishKind, string> = {
  'by-hand': 'What I move by hand',
  room: 'Room on a rack',
  empty: 'A rack emptied',
  spread: 'Two racks filled evenly',
  older: 'What is older than a day, onto a rack',
  customer: 'All of one customer, onto a rack',
  together: 'One device’s archives on one rack',
};
const kinds = Object.keys(wishNames) as WishKind[];

/** Moved by hand: an archive, the rack that it is on, the rack that it is to be on. */
const byHandSchema = z
  .string()
  .transform((text) => text.split('.'))
  .pipe(z.tuple([archiveIdSchema, rackIdSchema, rackIdSchema]));
export type ByHand = z.infer<typeof byHandSchema>;

/** What an address says of a plan; what makes no sense is left out. */
export function planFrom(address: URLSearchParams): { wished: Wished; byHand: ByHand[] } {
  const text = (name: string) => address.get(name) ?? '';
  const wish = text('wish');
  return {
    wished: {
      kind: kinds.find((kind) => kind === wish) ?? 'by-hand',
      ...{ rack: text('rack'), other: text('other'), gigabytes: text('gigabytes') },
      ...{ before: text('before'), customer: text('customer'), device: text('device') },
    },
    byHand: address.getAll('move').flatMap((move) => {
      const { data } = byHandSchema.safeParse(move);
      return data ? [data] : [];
    }),
  };
}

export function addressOf(wished: Wished, byHand: readonly ByHand[]): URLSearchParams {
  const address = new URLSearchParams();
  const { kind, ...more } = wished;
  address.set('wish', kind);
  for (const [name, value] of Object.entries(more)) if (value !== '') address.set(name, value);
  for (const move of byHand) address.append('move', move.join('.'));
  return address;
}

/** The address of a plan in which one archive goes onto another rack. */
export const planByHand = (...move: readonly [archive: string, from: string, to: string]): string =>
  `/racks/plan?${new URLSearchParams({ wish: 'by-hand', move: move.join('.') }).toString()}`;

/** The wish, once all of it is there; null before. */
export function wishOf({
  kind,
  rack,
  other,
  gigabytes,
  before,
  customer,
  device,
}: Wished): Wish | null {
  const amount = Number(gigabytes.replace(',', '.'));
  const whole: Record<WishKind, unknown> = {
    'by-hand': { kind },
    room: { kind, rackId: rack, bytes: amount > 0 ? Math.round(amount * 1e9) : -1 },
    empty: { kind, rackId: rack },
    spread: { kind, rackIds: [rack, other] },
    older: { kind, rackId: rack, before: before && `${before}T00:00:00.000Z` },
    customer: { kind, rackId: rack, customerId: customer },
    together: { kind, deviceId: device },
  };
  if (kind === 'spread' && rack === other) return null;
  return wishSchema.safeParse(whole[kind]).data ?? null;
}

/** What was moved by hand, of what lies there still. */
export function pinsOf(stock: Stock, byHand: readonly ByHand[]): Pin[] {
  return byHand.flatMap(([archiveId, from, to]) => {
    const copy = stock.copies.find((c) => c.archiveId === archiveId && c.rackId === from);
    return copy ? { copyId: copy.id, rackId: to } : [];
  });
}

/** The same with one more: what was said of that copy before is said no more. */
export const withMove = (byHand: readonly ByHand[], [archive, from, to]: ByHand): ByHand[] => [
  ...byHand.filter((move) => move[0] !== archive || move[1] !== from),
  [archive, from, to],
];

/** A rack that is named, and so takes part though it is away. */
export function namedRack({ rack }: Wished): RackId | undefined {
  return rackIdSchema.safeParse(rack).data;
}
