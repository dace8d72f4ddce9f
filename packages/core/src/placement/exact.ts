import TinyQueue from 'tinyqueue';
import {
  fits,
  isCheaper,
  isContent,
  loadsOf,
  mayLie,
  timeOf,
  type Cost,
  type Field,
  type Move,
} from './field.js';

/** Placements that are looked through at most. */
const STATES = 6_000;

/** Whether there are so few copies and racks that every way can be tried. */
export function isSmall({ copies, racks }: Field): boolean {
  const movable = copies.filter((copy) => copy.movable).length;
  return racks.filter(({ usable }) => usable).length ** movable <= STATES;
}

interface Reached {
  placement: number[];
  cost: Cost;
  /** How it was come to. */
  move: Omit<Move, 'detour'> | null;
  before: Reached | null;
}

/**
 * The cheapest moves to what is wanted, found by trying every way (Dijkstra’s, over placements); null where there is none.
 * For small fields only.
 */
export function cheapestMoves(field: Field): Move[] | null {
  const queue = new TinyQueue<Reached>(
    [{ placement: [...field.start], cost: { bytes: 0, ms: 0 }, move: null, before: null }],
    (a, b) => (isCheaper(a.cost, b.cost) ? -1 : 1),
  );
  const done = new Set<string>();
  for (let next = queue.pop(); next; next = queue.pop()) {
    const name = next.placement.join();
    if (done.has(name)) continue;
    done.add(name);
    const loads = loadsOf(field, next.placement);
    if (isContent(field, next.placement, loads)) return pathTo(next);
    for (const step of stepsFrom(field, next, loads)) queue.push(step);
  }
  return null;
}

function* stepsFrom(field: Field, before: Reached, loads: readonly number[]): Generator<Reached> {
  for (const [copy, { movable, bytes }] of field.copies.entries()) {
    const from = before.placement[copy] ?? -1;
    if (!movable) continue;
    for (const [to, { usable, closed }] of field.racks.entries()) {
      if (to === from || !usable || (closed && !isCalledFor(field, copy, to))) continue;
      if (!fits(field, loads, copy, to) || !mayLie(field, before.placement, copy, to)) continue;
      const move = { copy, from, to };
      const { lowMs, highMs } = timeOf(field, move);
      const { bytes: spent, ms } = before.cost;
      yield {
        placement: before.placement.with(copy, to),
        cost: { bytes: spent + bytes, ms: ms + (lowMs + highMs) / 2 },
        ...{ move, before },
      };
    }
  }
}

/** Whether somebody wants this very copy on that rack. */
export const isCalledFor = ({ bring }: Field, copy: number, to: number): boolean =>
  bring.some(({ copies, rack }) => rack === to && copies.includes(copy));

function pathTo(reached: Reached): Move[] {
  const moves: Omit<Move, 'detour'>[] = [];
  for (let at: Reached | null = reached; at?.move; at = at.before) moves.unshift(at.move);
  return moves.map((move, at) => ({
    ...move,
    detour: moves.slice(at + 1).some(({ copy }) => copy === move.copy),
  }));
}
