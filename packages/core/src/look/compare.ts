import type { DataClass } from '../classes.js';
import { countOf } from '../format.js';

/** One item, as it is compared. */
export interface Side {
  class: DataClass;
  path: string;
  bytes: number;
  /** The same for all with the very same contents. */
  contents: string;
}

export const changes = ['removed', 'changed', 'added', 'renamed', 'same'] as const;
export type Change = (typeof changes)[number];

/** What became of one item. */
export interface Difference {
  change: Change;
  class: DataClass;
  /** Null of what was added. */
  before: Side | null;
  /** Null of what is not there any more. */
  after: Side | null;
}

/**
 * What became of each item: found by its path, and where that is gone by its contents, in the same class. What lies at a path
 * of another class counts as another item.
 */
export function compareSides(before: readonly Side[], after: readonly Side[]): Difference[] {
  const placeOf = ({ class: dataClass, path }: Side) => `${dataClass}\n${path}`;
  const now = new Map(after.map((side) => [placeOf(side), side]));
  const differences: Difference[] = [];
  const gone: Side[] = [];
  for (const side of before) {
    const there = now.get(placeOf(side));
    if (!there) {
      gone.push(side);
      continue;
    }
    now.delete(placeOf(side));
    const change = there.contents === side.contents ? 'same' : 'changed';
    differences.push({ change, class: side.class, before: side, after: there });
  }
  const come = new Map<string, Side[]>();
  for (const side of now.values()) {
    const key = `${side.class}\n${side.contents}`;
    come.set(key, [...(come.get(key) ?? []), side]);
  }
  for (const side of gone) {
    const elsewhere = come.get(`${side.class}\n${side.contents}`)?.shift() ?? null;
    const change = elsewhere ? 'renamed' : 'removed';
    differences.push({ change, class: side.class, before: side, after: elsewhere });
  }
  for (const side of [...come.values()].flat()) {
    differences.push({ change: 'added', class: side.class, before: null, after: side });
  }
  return differences;
}

/** How many items became what, and how large they were, or are. */
export type ChangeCounts = Record<Change, { items: number; bytes: number }>;

export function countChanges(differences: Iterable<Difference>): ChangeCounts {
  const counts = Object.fromEntries(
    changes.map((change) => [change, { items: 0, bytes: 0 }]),
  ) as ChangeCounts;
  for (const { change, before, after } of differences) {
    counts[change].items += 1;
    counts[change].bytes += (after ?? before)?.bytes ?? 0;
  }
  return counts;
}

/** Whether it is all there, in a sentence. @param where what is looked at for it: “on the device”, “in the later backup” */
export function allThere(
  { removed, changed, added, renamed, same }: ChangeCounts,
  where: string,
): string {
  const all = removed.items + changed.items + renamed.items + same.items;
  if (all === 0) return `There was nothing before; ${countOf(added.items, 'item')} ${where}.`;
  const also = [
    changed.items > 0 ? `${are(changed.items, 'was', 'were')} changed` : '',
    renamed.items > 0 ? `${are(renamed.items)} called otherwise` : '',
    added.items > 0 ? `${are(added.items, 'was', 'were')} added` : '',
  ].filter(Boolean);
  const more = also.length > 0 ? `; ${also.join(', ')}` : '';
  if (removed.items === 0) return `It is all there: ${countOf(all, 'item')} ${where}${more}.`;
  const gone = removed.items;
  return `${gone.toLocaleString('en')} of ${countOf(all, 'item')} ${gone === 1 ? 'is' : 'are'} not ${where}${more}.`;
}

const are = (count: number, one = 'is', more = 'are'): string =>
  `${count.toLocaleString('en')} ${count === 1 ? one : more}`;
