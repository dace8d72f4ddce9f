import type { ArchiveId, CopyId, RackId } from '../values/index.js';
import type { Lying, Rate } from './stock.js';
import type { Goal, Pin } from './wish.js';

/** A copy on its way from one rack to another; racks and copies by their place in the field’s lists. */
export interface Move {
  copy: number;
  from: number;
  to: number;
  /** On the way to somewhere else: it makes room, and goes on. */
  detour: boolean;
}

export interface FieldCopy {
  id: CopyId;
  archive: number;
  archiveId: ArchiveId;
  bytes: number;
  damaged: boolean;
  /** It is whole, and on a rack from which something may be taken. */
  movable: boolean;
}

export interface FieldRack {
  id: RackId;
  name: string;
  offPremises: boolean;
  /** Something may be put there, and taken from there. */
  usable: boolean;
  /** Nothing is put there but by hand. */
  closed: boolean;
  /** So much may lie there at any moment, so that the reserve is kept; what is there already may be more. */
  ceiling: number;
  /** So much may lie there in the end. */
  end: number;
  reads: Rate;
  writes: Rate;
}

/** A stock and what is wanted of it, with lists in place of ids. Bytes are those of copies; what else lies on a rack never moves. */
export interface Field {
  racks: FieldRack[];
  copies: FieldCopy[];
  /** On which rack each copy lies now. */
  start: readonly number[];
  /** Of each of these, one is to be on that rack in the end. */
  bring: { copies: number[]; rack: number }[];
  /** Copies of each archive. */
  siblings: number[][];
  keepsOffPremises: boolean;
}

export function fieldOf(stock: Lying, goal: Goal, pins: readonly Pin[]): Field {
  const rackAt = new Map(stock.racks.map(({ id }, at) => [id, at]));
  const copyAt = new Map(stock.copies.map(({ id }, at) => [id, at]));
  const archives = [...new Set(stock.copies.map(({ archiveId }) => archiveId))];
  const archiveAt = new Map(archives.map((id, at) => [id, at]));
  const start = stock.copies.map(({ rackId }) => rackAt.get(rackId) ?? -1);
  const loads = new Array<number>(stock.racks.length).fill(0);
  stock.copies.forEach(({ bytes }, at) => {
    const rack = start[at] ?? -1;
    if (rack >= 0) loads[rack] = (loads[rack] ?? 0) + bytes;
  });
  // A rack that is away takes part where somebody named it: it is waited for.
  const named = new Set([...goal.bring.map(({ rackId }) => rackId), ...pins.map((p) => p.rackId)]);
  const racks = stock.racks.map((rack, at): FieldRack => {
    const load = loads[at] ?? 0;
    const ceiling = load + rack.free - rack.reserve;
    return {
      ...{ id: rack.id, name: rack.name, offPremises: rack.offPremises },
      ...{ reads: rack.reads, writes: rack.writes },
      usable: rack.here || named.has(rack.id) || goal.atMost.has(rack.id),
      closed: goal.closed.has(rack.id) || rack.ailing || (!rack.here && !named.has(rack.id)),
      ceiling,
      end: Math.min(Math.max(ceiling, load), goal.atMost.get(rack.id) ?? Infinity),
    };
  });
  const siblings = archives.map((): number[] => []);
  const copies = stock.copies.map(({ id, archiveId, bytes, damaged }, at): FieldCopy => {
    const archive = archiveAt.get(archiveId) ?? 0;
    siblings[archive]?.push(at);
    const from = start[at] ?? -1;
    const movable = !damaged && from >= 0 && racks[from]?.usable === true;
    return { id, archive, archiveId, bytes, damaged, movable };
  });
  const groups = [
    ...pins.map(({ copyId, rackId }) => ({ copies: [copyId], rackId })),
    ...goal.bring,
  ];
  const bring = groups.flatMap(({ copies: ids, rackId }) => {
    const rack = rackAt.get(rackId);
    const own = ids.flatMap((id) => copyAt.get(id) ?? []);
    return rack === undefined || own.length === 0 ? [] : [{ copies: own, rack }];
  });
  return { racks, copies, start, bring, siblings, keepsOffPremises: stock.keepsOffPremises };
}

/** What lies on each rack in a placement, in bytes. */
export function loadsOf({ racks, copies }: Field, placement: readonly number[]): number[] {
  const loads = new Array<number>(racks.length).fill(0);
  placement.forEach((rack, at) => {
    if (rack >= 0) loads[rack] = (loads[rack] ?? 0) + (copies[at]?.bytes ?? 0);
  });
  return loads;
}

/** Whether a copy may lie on a rack as far as the others of its archive go, wherever those are in a placement. */
export function mayLie(
  field: Field,
  placement: readonly number[],
  copy: number,
  to: number,
): boolean {
  const own = field.copies[copy];
  const rack = field.racks[to];
  if (!own || !rack) return false;
  const others = (field.siblings[own.archive] ?? []).filter((other) => other !== copy);
  if (others.some((other) => placement[other] === to)) return false;
  if (!field.keepsOffPremises || rack.offPremises) return true;
  const isOff = (at: number) => field.racks[placement[at] ?? -1]?.offPremises === true;
  const stays = (at: number) => field.copies[at]?.damaged === false && isOff(at);
  return !isOff(copy) || others.some(stays);
}

/** Whether a copy can be put on a rack at this moment, beside all that lies there. */
export function fits(field: Field, loads: readonly number[], copy: number, to: number): boolean {
  const rack = field.racks[to];
  const own = field.copies[copy];
  return rack !== undefined && own !== undefined && (loads[to] ?? 0) + own.bytes <= rack.ceiling;
}

export const isBrought = (
  { copies, rack }: Field['bring'][number],
  placement: readonly number[],
): boolean => copies.some((copy) => placement[copy] === rack);

/** Whether a placement is what was wanted. */
export function isContent(
  field: Field,
  placement: readonly number[],
  loads: readonly number[],
): boolean {
  return (
    field.bring.every((group) => isBrought(group, placement)) &&
    field.racks.every(({ end }, at) => (loads[at] ?? 0) <= end)
  );
}

/** How long a copy takes from one rack to another: sent, then read back. Milliseconds, as a range. */
export function timeOf(field: Field, { copy, from, to }: Pick<Move, 'copy' | 'from' | 'to'>) {
  const bytes = field.copies[copy]?.bytes ?? 0;
  const source = field.racks[from];
  const target = field.racks[to];
  if (!source || !target) return { lowMs: 0, highMs: 0 };
  const at = (end: 'low' | 'high') =>
    (bytes / Math.min(source.reads[end], target.writes[end]) + bytes / target.reads[end]) * 1000;
  return { lowMs: at('high'), highMs: at('low') };
}

/** Bytes first, then time: what plans are compared by. */
export interface Cost {
  bytes: number;
  ms: number;
}
export const isCheaper = (a: Cost, b: Cost): boolean =>
  a.bytes !== b.bytes ? a.bytes < b.bytes : a.ms < b.ms;

export function costOf(field: Field, moves: readonly Omit<Move, 'detour'>[]): Cost {
  return moves.reduce(
    (sum, move) => {
      const { lowMs, highMs } = timeOf(field, move);
      const bytes = field.copies[move.copy]?.bytes ?? 0;
      return { bytes: sum.bytes + bytes, ms: sum.ms + (lowMs + highMs) / 2 };
    },
    { bytes: 0, ms: 0 },
  );
}
