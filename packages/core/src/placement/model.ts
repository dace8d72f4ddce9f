import { isCalledFor } from './exact.js';
import { costOf, loadsOf, type Field } from './field.js';

/** Solves a mixed-integer linear program in CPLEX LP format. @returns columns that are not zero, by name; null where it found none */
export type Solve = (program: string) => ReadonlyMap<string, number> | null;

/** More variables than these are not written down: copies that need not move are left out first. */
const VARIABLES = 12_000;
/** Megabytes kept back: a solver counts in floating point. */
const SLACK = 0.02;

const mega = (bytes: number) => bytes / 1e6;

/**
 * What is to be placed, as a program: a binary variable for each copy and each rack that it could go to; capacity at the end,
 * copies on different racks, what is to be brought; fewest bytes, then least time.
 */
export function modelOf(field: Field): string | null {
  const loads = loadsOf(field, field.start);
  const over = field.racks.map(({ end }, at) => (loads[at] ?? 0) > end);
  const called = new Set(field.bring.flatMap(({ copies }) => copies));
  const targets = field.racks.flatMap(({ usable, closed }, at) => (usable && !closed ? at : []));
  const movable = field.copies.flatMap((copy, at) => (copy.movable ? at : []));
  const needed = movable.filter((at) => called.has(at) || over[field.start[at] ?? -1] === true);
  const size = (at: number) => field.copies[at]?.bytes ?? 0;
  const others = movable
    .filter((at) => !needed.includes(at) && targets.length > 0)
    .sort((a, b) => size(b) - size(a));
  const most = Math.floor(VARIABLES / Math.max(1, targets.length));
  if (needed.length > most) return null;
  const taking = new Set([...needed, ...others.slice(0, most - needed.length)]);
  const ways = [...taking].flatMap((copy) =>
    field.racks.flatMap(({ usable }, to) => {
      const may = usable && (targets.includes(to) || isCalledFor(field, copy, to));
      return may && to !== field.start[copy] ? { copy, to, name: nameOf(copy, to) } : [];
    }),
  );
  if (ways.length === 0) return null;
  const byCopy = group(ways, ({ copy }) => copy);
  const byRack = group(ways, ({ to }) => to);
  const rows: string[] = [];
  for (const own of byCopy.values()) rows.push(`${sum(own.map(({ name }) => name))} <= 1`);
  field.racks.forEach(({ end }, at) => {
    const coming = (byRack.get(at) ?? []).map(({ copy, name }) => `${mega(size(copy))} ${name}`);
    const going = [...taking]
      .filter((copy) => field.start[copy] === at)
      .flatMap((copy) =>
        (byCopy.get(copy) ?? []).map(({ name }) => `- ${mega(size(copy))} ${name}`),
      );
    const terms = [...coming.map((term) => `+ ${term}`), ...going];
    const left = mega(end - (loads[at] ?? 0));
    if (terms.length > 0)
      rows.push(`${terms.join(' ')} <= ${left >= 0 ? Math.max(0, left - SLACK) : left - SLACK}`);
  });
  for (const own of field.siblings) {
    if (own.length < 2) continue;
    for (const at of field.racks.keys()) rows.push(...apart(own, at, field, byCopy));
  }
  for (const { copies, rack } of field.bring) {
    const { plus, minus, there } = onRack(copies, rack, field, byCopy);
    const terms = [...plus.map((n) => `+ ${n}`), ...minus.map((n) => `- ${n}`)];
    if (terms.length > 0) rows.push(`${terms.join(' ')} >= ${1 - there}`);
  }
  const price = ways.map((way) => {
    const { bytes, ms } = costOf(field, [{ ...way, from: field.start[way.copy] ?? -1 }]);
    return `+ ${mega(bytes) + ms / 1e9} ${way.name}`;
  });
  return [
    'Minimize',
    ` obj: ${price.join('\n ')}`,
    'Subject To',
    ...rows.map((row, at) => ` c${at}: ${row}`),
    'Binary',
    ` ${ways.map(({ name }) => name).join('\n ')}`,
    'End',
  ].join('\n');
}

/** The placement that a solver’s columns say. */
export function placementOf(field: Field, columns: ReadonlyMap<string, number>): number[] {
  const placement = [...field.start];
  for (const [name, value] of columns) {
    const way = /^m_(\d+)_(\d+)$/.exec(name);
    if (way && value > 0.5) placement[Number(way[1])] = Number(way[2]);
  }
  return placement;
}

const nameOf = (copy: number, to: number) => `m_${copy}_${to}`;
const sum = (names: readonly string[]) => names.join(' + ');

type Ways = ReadonlyMap<number, readonly { name: string; to: number }[]>;

/** Terms that say how many of some copies lie on a rack in the end. */
function onRack(copies: readonly number[], rack: number, field: Field, ways: Ways) {
  const plus = copies.flatMap((copy) =>
    (ways.get(copy) ?? []).filter(({ to }) => to === rack).map(({ name }) => name),
  );
  const own = copies.filter((copy) => field.start[copy] === rack);
  const minus = own.flatMap((copy) => (ways.get(copy) ?? []).map(({ name }) => name));
  return { plus, minus, there: own.length };
}

function apart(own: readonly number[], rack: number, field: Field, ways: Ways): string[] {
  const { plus, minus, there } = onRack(own, rack, field, ways);
  if (plus.length + there < 2) return [];
  const terms = [...plus.map((n) => `+ ${n}`), ...minus.map((n) => `- ${n}`)];
  return [`${terms.join(' ')} <= ${1 - there}`];
}

function group<T>(all: readonly T[], by: (one: T) => number): Map<number, T[]> {
  const found = new Map<number, T[]>();
  for (const one of all) {
    const own = found.get(by(one));
    if (own) own.push(one);
    else found.set(by(one), [one]);
  }
  return found;
}
