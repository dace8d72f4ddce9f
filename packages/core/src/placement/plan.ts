import { z } from 'zod';
import {
  formatBytes,
  archiveIdSchema,
  byteCountSchema,
  copyIdSchema,
  rackIdSchema,
} from '../values/index.js';
import { assign, coverOf, preferences } from './assign.js';
import { cheapestMoves, isSmall } from './exact.js';
import {
  costOf,
  fieldOf,
  isCheaper,
  isContent,
  loadsOf,
  timeOf,
  type Cost,
  type Field,
  type Move,
} from './field.js';
import { modelOf, placementOf, type Solve } from './model.js';
import { orderMoves } from './order.js';
import type { Stock, StockRack } from './stock.js';
import { goalsOf, leftOut, type Goal, type Pin, type Wish } from './wish.js';

/** One copy goes from one rack to another: copied, read back, recorded, and only then removed where it was. */
export const plannedMoveSchema = z.object({
  copyId: copyIdSchema,
  archiveId: archiveIdSchema,
  from: rackIdSchema,
  to: rackIdSchema,
  bytes: byteCountSchema,
  /** On the way to somewhere else: it makes room, and goes on. */
  detour: z.boolean(),
});
export type PlannedMove = z.infer<typeof plannedMoveSchema>;

export interface MovePlan {
  /** In their order. */
  moves: (PlannedMove & {
    lowMs: number;
    highMs: number;
    /** What the rack that it goes to has left then, and the one that it leaves. */
    leftThere: number;
    leftHere: number;
  })[];
  bytes: number;
  lowMs: number;
  highMs: number;
  /** Free bytes of every rack in the end, by id. */
  free: ReadonlyMap<string, number>;
  /** Bytes that every plan for this wish moves at least. */
  atLeast: number;
  /** Archives that the wish is about and that cannot go now. */
  leftOut: number;
}

export interface NoPlan {
  /** Why there is none, in a sentence. */
  why: string;
  /** What would make one possible; each a sentence. */
  would: string[];
}

/** A plan that moves no more than this share above what any must move is not looked at again. */
const NEAR_ENOUGH = 1.002;

/**
 * What to move where, and in which order, so that a wish comes true and at every moment racks keep their reserve, copies of
 * an archive lie on different racks and none is lost; with the fewest bytes moved, then the least time. Small cases are
 * solved exactly. Others by a heuristic, and by a solver where that may find better.
 * @param solve of mixed-integer programs; without one the heuristic's word stands
 */
export function planMoves(
  stock: Stock,
  wish: Wish,
  pins: readonly Pin[] = [],
  solve: Solve | null = null,
): MovePlan | NoPlan {
  const { goals, take } = goalsOf(stock, wish);
  let best: { cost: Cost; plan: MovePlan } | null = null;
  for (const goal of goals) {
    const field = fieldOf(stock, goal, pins);
    const moves = movesFor(field, solve);
    if (!moves) continue;
    const cost = costOf(field, moves);
    if (!best || isCheaper(cost, best.cost))
      best = { cost, plan: planOf(stock, field, moves, leftOut(stock, wish)) };
    if (take === 'first') break;
  }
  return best?.plan ?? noPlan(stock, wish, pins, goals);
}

function movesFor(field: Field, solve: Solve | null): Move[] | null {
  return isSmall(field) ? cheapestMoves(field) : goodMoves(field, solve);
}

/** The first moves that are found; null where none are. */
function anyMoves(field: Field): Move[] | null {
  for (const preference of preferences) {
    const placement = assign(field, preference);
    const moves = placement && orderMoves(field, placement);
    if (moves) return moves;
  }
  return null;
}

/** Moves for a field that is too large to try every way: few bytes, though maybe not the fewest. */
export function goodMoves(field: Field, solve: Solve | null): Move[] | null {
  const found = preferences.flatMap((preference) => {
    const placement = assign(field, preference);
    const moves = placement && orderMoves(field, placement);
    return moves ? [moves] : [];
  });
  const least = leastBytes(field);
  const best = cheapest(field, found);
  if (best && costOf(field, best).bytes <= least * NEAR_ENOUGH) return best;
  const program = solve && modelOf(field);
  const columns = program ? solve(program) : null;
  const placement = columns && placementOf(field, columns);
  if (!placement || !isContent(field, placement, loadsOf(field, placement))) return best;
  const solved = orderMoves(field, placement);
  return solved ? cheapest(field, [...found, solved]) : best;
}

/** Of plans the cheapest; null of none. */
function cheapest(field: Field, all: readonly Move[][]): Move[] | null {
  const [best = null] = [...all].sort((a, b) =>
    isCheaper(costOf(field, a), costOf(field, b)) ? -1 : 1,
  );
  return best;
}

/** Bytes that must move whatever is done: what is to be brought, or what must leave, whichever is more. */
function leastBytes(field: Field): number {
  const size = (copy: number) => field.copies[copy]?.bytes ?? 0;
  const brought = field.bring
    .filter(({ copies, rack }) => !copies.some((copy) => field.start[copy] === rack))
    .reduce((sum, { copies }) => sum + Math.min(...copies.map(size)), 0);
  const loads = loadsOf(field, field.start);
  const leaving = field.racks.reduce((sum, { end }, at) => {
    const excess = (loads[at] ?? 0) - end;
    return excess > 0 ? sum + leastCover(field, at, excess) : sum;
  }, 0);
  return Math.max(brought, leaving);
}

/** What must leave a rack at least. */
function leastCover(field: Field, rack: number, excess: number): number {
  const able = field.start.flatMap((at, copy) =>
    at === rack && field.copies[copy]?.movable === true ? copy : [],
  );
  const all = able.reduce((sum, copy) => sum + (field.copies[copy]?.bytes ?? 0), 0);
  // Of all that lies there, all; of some of it, no less than is asked for.
  return coverOf(field, able, excess)?.length === able.length ? all : excess;
}

function planOf(stock: Stock, field: Field, moves: readonly Move[], left: number): MovePlan {
  const free = new Map(stock.racks.map(({ id, free }) => [String(id), free]));
  const change = (id: string, bytes: number) => {
    const left = (free.get(id) ?? 0) + bytes;
    free.set(id, left);
    return left;
  };
  const planned = moves.flatMap((move) => {
    const copy = field.copies[move.copy];
    const from = field.racks[move.from];
    const to = field.racks[move.to];
    if (!copy || !from || !to) return [];
    const { bytes } = copy;
    const leftThere = change(to.id, -bytes);
    const leftHere = change(from.id, bytes);
    return {
      ...{ copyId: copy.id, archiveId: copy.archiveId, from: from.id, to: to.id },
      ...{ bytes, detour: move.detour, leftThere, leftHere },
      ...timeOf(field, move),
    };
  });
  const total = (of: (move: (typeof planned)[number]) => number) =>
    planned.reduce((sum, move) => sum + of(move), 0);
  return {
    moves: planned,
    bytes: total(({ bytes }) => bytes),
    lowMs: total(({ lowMs }) => lowMs),
    highMs: total(({ highMs }) => highMs),
    free,
    atLeast: leastBytes(field),
    leftOut: left,
  };
}

function noPlan(stock: Stock, wish: Wish, pins: readonly Pin[], goals: readonly Goal[]): NoPlan {
  /** The first moves that are found on another stock; whether they are the cheapest does not matter here. */
  const movesOn = (changed: Stock): MovePlan | null => {
    for (const goal of goalsOf(changed, wish).goals) {
      const field = fieldOf(changed, goal, pins);
      const moves = isSmall(field) ? cheapestMoves(field) : anyMoves(field);
      if (moves) return planOf(changed, field, moves, 0);
    }
    return null;
  };
  return { why: whyNot(stock, wish, goals), would: whatWould(stock, movesOn) };
}

function whyNot(stock: Stock, wish: Wish, goals: readonly Goal[]): string {
  if (goals.length === 0) return 'That rack is not in use.';
  if (wish.kind === 'room') {
    const rack = stock.racks.find(({ id }) => id === wish.rackId);
    const most = Math.max(0, ...goals.flatMap(({ atMost }) => [...atMost.values()]));
    if (rack && goals.every(({ atMost }) => [...atMost.values()].every((bytes) => bytes < 0))) {
      return `${rack.name} cannot have ${formatBytes(wish.bytes)} free beside its reserve, even with every archive gone${most > 0 ? '' : ': what else lies there takes the rest'}.`;
    }
  }
  return 'There is no order in which it fits: the racks that are here have too little room for it beside their reserves.';
}

/** A rack so large that it takes all: how much of it would be used says what is missing. */
const ENDLESS = 1e15;
/** How often what is missing is halved, to say it more closely. */
const HALVINGS = 6;

function whatWould(stock: Stock, movesOn: (changed: Stock) => MovePlan | null): string[] {
  const would: string[] = [];
  const changed = (of: StockRack, change: Partial<StockRack>): Stock => ({
    ...stock,
    racks: stock.racks.map((rack) => (rack === of ? { ...rack, ...change } : rack)),
  });
  for (const away of stock.racks.filter(({ here, free, reserve }) => !here && free > reserve)) {
    if (!movesOn(changed(away, { here: true }))) continue;
    would.push(`Connect ${away.name}: it had ${formatBytes(away.free)} free.`);
  }
  for (const ailing of stock.racks.filter((rack) => rack.here && rack.ailing)) {
    if (!movesOn(changed(ailing, { ailing: false }))) continue;
    would.push(
      `${ailing.name} has room for it, but reads worse than it did: nothing is put there but by hand.`,
    );
  }
  const missing = missingRoom(stock, movesOn);
  if (missing !== null) would.push(`Add a rack with ${formatBytes(missing)} free.`);
  for (const tight of stock.racks.filter(({ here, reserve }) => here && reserve > 0)) {
    if (movesOn(changed(tight, { reserve: 0 }))) {
      would.push(`Make the reserve of ${tight.name} smaller.`);
    }
  }
  return would;
}

/** Bytes that one more rack would have to have free; null where none would help. */
function missingRoom(stock: Stock, movesOn: (changed: Stock) => MovePlan | null): number | null {
  const [any] = stock.racks;
  if (!any) return null;
  const onAnother = (free: number) => {
    // An id that no rack has: it is never shown, and nothing is moved there in earnest.
    const another = {
      ...any,
      id: newRack,
      here: true,
      ailing: false,
      capacity: free,
      free,
      reserve: 0,
    };
    const plan = movesOn({ ...stock, racks: [...stock.racks, another] });
    return (
      plan &&
      free - Math.min(free, ...plan.moves.map((m) => (m.to === newRack ? m.leftThere : free)))
    );
  };
  let high = onAnother(ENDLESS);
  if (high === null) return null;
  let low = 0;
  for (let n = 0; n < HALVINGS && high - low > 1; n++) {
    const middle = Math.ceil((low + high) / 2);
    const used = onAnother(middle);
    if (used === null) low = middle;
    else high = Math.min(middle, used);
  }
  return high;
}

const newRack = rackIdSchema.parse('00000000-0000-4000-8000-000000000000');
