import { isCalledFor } from './exact.js';
import { isBrought, loadsOf, mayLie, timeOf, type Field } from './field.js';

/** By what a rack is chosen for a copy, of those that it fits on. */
export type Preference = 'fastest' | 'fullest' | 'emptiest';
export const preferences: readonly Preference[] = ['fastest', 'fullest', 'emptiest'];

/** A rack is made room on so often at most. */
const ROUNDS = 200;
/** A cover is looked for to this share of what is to be covered. */
const GRAINS = 4096;

/**
 * Where every copy lies in the end, so that what is wanted is true with few bytes moved; null where none is found. A copy
 * is moved once at most. Says nothing of the order: see `orderMoves`.
 */
export function assign(field: Field, preference: Preference): number[] | null {
  const placement = [...field.start];
  const loads = loadsOf(field, placement);
  const isFixed = new Set<number>();
  const put = (copy: number, to: number) => {
    const bytes = field.copies[copy]?.bytes ?? 0;
    const from = placement[copy] ?? -1;
    loads[from] = (loads[from] ?? 0) - bytes;
    loads[to] = (loads[to] ?? 0) + bytes;
    placement[copy] = to;
    isFixed.add(copy);
  };
  for (const group of field.bring) {
    const there = group.copies.find((copy) => placement[copy] === group.rack);
    if (there !== undefined) {
      isFixed.add(there);
      continue;
    }
    const able = group.copies.filter(
      (copy) =>
        field.copies[copy]?.movable === true &&
        !isFixed.has(copy) &&
        mayLie(field, placement, copy, group.rack),
    );
    const [best] = able.sort((a, b) => crowding(field, loads, b) - crowding(field, loads, a));
    if (best === undefined) return null;
    put(best, group.rack);
  }
  for (let round = 0; round < ROUNDS; round++) {
    const over = field.racks.findIndex(({ end }, at) => (loads[at] ?? 0) > end);
    if (over < 0)
      return field.bring.every((group) => isBrought(group, placement)) ? placement : null;
    const excess = (loads[over] ?? 0) - (field.racks[over]?.end ?? 0);
    const able = placement.flatMap((rack, copy) =>
      rack === over && !isFixed.has(copy) && field.copies[copy]?.movable === true ? copy : [],
    );
    const going = coverOf(field, able, excess);
    if (!going) return null;
    for (const copy of going) {
      const to = targetFor(field, { placement, loads, isFixed }, copy, preference);
      if (to === null) return null;
      put(copy, to);
    }
  }
  return null;
}

/** How much too much lies where a copy is: what goes from there need not go twice. */
function crowding(field: Field, loads: readonly number[], copy: number): number {
  const rack = field.start[copy] ?? -1;
  return (loads[rack] ?? 0) - (field.racks[rack]?.end ?? 0);
}

/**
 * Copies that together are at least so large, and hardly larger: by dynamic programming over grains of what is to be
 * covered (the minimum knapsack; sizes are rounded down, so that what it finds covers, and what just covers by its true
 * sizes is looked for a few grains lower). Largest first; null where all of them together are too small.
 */
export function coverOf(field: Field, able: readonly number[], excess: number): number[] | null {
  const size = (copy: number) => field.copies[copy]?.bytes ?? 0;
  const sorted = [...able].sort((a, b) => size(b) - size(a));
  const all = sorted.reduce((sum, copy) => sum + size(copy), 0);
  if (all < excess) return null;
  if (all === excess) return sorted;
  const grain = excess / GRAINS;
  const least = new Float64Array(GRAINS + 1).fill(Infinity);
  least[0] = 0;
  const taken = sorted.map(() => new Uint8Array((GRAINS + 8) >> 3));
  sorted.forEach((copy, item) => {
    const weight = Math.floor(size(copy) / grain);
    if (weight === 0) return;
    for (let covered = GRAINS; covered > 0; covered--) {
      const cost = (least[Math.max(0, covered - weight)] ?? Infinity) + size(copy);
      if (cost >= (least[covered] ?? Infinity)) continue;
      least[covered] = cost;
      const bits = taken[item];
      if (bits) bits[covered >> 3] = (bits[covered >> 3] ?? 0) | (1 << (covered & 7));
    }
  });
  const chosen: number[] = [];
  let best = GRAINS;
  for (let grains = GRAINS - 1; grains > GRAINS - Math.min(sorted.length, GRAINS / 8); grains--) {
    const bytes = least[grains] ?? 0;
    if (bytes >= excess && bytes < (least[best] ?? Infinity)) best = grains;
  }
  if (least[best] === Infinity) return thinned(sorted, size, excess);
  for (let item = sorted.length - 1, covered = best; item >= 0 && covered > 0; item--) {
    if (((taken[item]?.[covered >> 3] ?? 0) & (1 << (covered & 7))) === 0) continue;
    const copy = sorted[item] ?? -1;
    chosen.unshift(copy);
    covered = Math.max(0, covered - Math.floor(size(copy) / grain));
  }
  return thinned(chosen, size, excess);
}

/** The same without what it does not need. */
function thinned(
  chosen: readonly number[],
  size: (copy: number) => number,
  excess: number,
): number[] {
  let spare = chosen.reduce((sum, copy) => sum + size(copy), 0) - excess;
  return chosen.filter((copy) => {
    if (size(copy) > spare) return true;
    spare -= size(copy);
    return false;
  });
}

interface Standing {
  placement: readonly number[];
  loads: readonly number[];
  isFixed: ReadonlySet<number>;
}

/** Where a copy goes; where it fits nowhere, onto a rack from which smaller ones can go on. Null where there is none. */
function targetFor(
  field: Field,
  { placement, loads, isFixed }: Standing,
  copy: number,
  preference: Preference,
): number | null {
  const bytes = field.copies[copy]?.bytes ?? 0;
  const from = placement[copy] ?? -1;
  const open = field.racks.flatMap(({ usable, closed }, to) =>
    to !== from &&
    usable &&
    (!closed || isCalledFor(field, copy, to)) &&
    mayLie(field, placement, copy, to)
      ? to
      : [],
  );
  const left = (to: number) => (field.racks[to]?.end ?? 0) - (loads[to] ?? 0) - bytes;
  const time = (to: number) => timeOf(field, { copy, from, to }).highMs;
  const order: Record<Preference, (a: number, b: number) => number> = {
    fastest: (a, b) => time(a) - time(b) || left(b) - left(a),
    fullest: (a, b) => left(a) - left(b),
    emptiest: (a, b) => left(b) - left(a),
  };
  const [best] = open.filter((to) => left(to) >= 0).sort(order[preference]);
  if (best !== undefined) return best;
  const couldGoOn = (to: number) =>
    placement.reduce((sum, rack, other) => {
      const { bytes: size = 0, movable = false } = field.copies[other] ?? {};
      return rack === to && movable && !isFixed.has(other) && size < bytes ? sum + size : sum;
    }, 0);
  const [pushed] = open
    .filter((to) => couldGoOn(to) >= -left(to))
    .sort((a, b) => left(b) - left(a));
  return pushed ?? null;
}
