import type { DataClass } from '../device/index.js';
import { countOf } from '../values/index.js';

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

/** What became of one item that is not the same. */
export interface Difference {
  change: Exclude<Change, 'same'>;
  class: DataClass;
  /** Null of what was added. */
  before: Side | null;
  /** Null of what is not there any more. */
  after: Side | null;
}

/** What has not met its like yet, by class and path. */
class Waiting {
  readonly #byClass = new Map<DataClass, Map<string, Side>>();

  put(side: Side): void {
    const some = this.#byClass.get(side.class) ?? new Map<string, Side>();
    this.#byClass.set(side.class, some);
    some.set(side.path, side);
  }

  take({ class: dataClass, path }: Side): Side | undefined {
    const some = this.#byClass.get(dataClass);
    const side = some?.get(path);
    some?.delete(path);
    return side;
  }

  *all(): Generator<Side> {
    for (const some of this.#byClass.values()) yield* some.values();
  }
}

/** What came of a comparison, class by class. */
export interface Compared {
  counts: Map<DataClass, ChangeCounts>;
  /** Each item that is not the same. */
  differences: Difference[];
  /** Each that is: nearly all of them, mostly, so as little as tells which. */
  same: Map<DataClass, Pick<Side, 'path' | 'bytes'>[]>;
}

/**
 * Compares two sides while they are read. Holds what has not met its like yet, what differs, and the names of what does not: sides in
 * the same order, read in turn, take little memory. An item is found by its path, and where that is gone by its contents, in the same class. What lies at
 * a path of another class counts as another item.
 */
export class SideComparison {
  readonly #waiting = { before: new Waiting(), after: new Waiting() };
  readonly #counts = new Map<DataClass, ChangeCounts>();
  readonly #differences: Difference[] = [];
  readonly #same: Compared['same'] = new Map();

  before(side: Side): void {
    const there = this.#waiting.after.take(side);
    if (there) this.#met(side, there);
    else this.#waiting.before.put(side);
  }

  after(side: Side): void {
    const there = this.#waiting.before.take(side);
    if (there) this.#met(there, side);
    else this.#waiting.after.put(side);
  }

  /** Once both sides were told. */
  end(): Compared {
    const come = new Map<string, Side[]>();
    for (const side of this.#waiting.after.all()) {
      const key = `${side.class}\n${side.contents}`;
      const some = come.get(key) ?? [];
      come.set(key, some);
      some.push(side);
    }
    for (const side of this.#waiting.before.all()) {
      const elsewhere = come.get(`${side.class}\n${side.contents}`)?.shift() ?? null;
      this.#tell(elsewhere ? 'renamed' : 'removed', side, elsewhere);
    }
    for (const side of [...come.values()].flat()) this.#tell('added', null, side);
    return { counts: this.#counts, differences: this.#differences, same: this.#same };
  }

  #met(before: Side, after: Side): void {
    if (before.contents !== after.contents) {
      this.#tell('changed', before, after);
      return;
    }
    this.#count('same', after);
    const { class: dataClass, path, bytes } = after;
    const some = this.#same.get(dataClass) ?? [];
    this.#same.set(dataClass, some);
    some.push({ path, bytes });
  }

  #tell(change: Difference['change'], before: Side | null, after: Side | null): void {
    const side = after ?? before;
    if (!side) return;
    this.#count(change, side);
    this.#differences.push({ change, class: side.class, before, after });
  }

  #count(change: Change, { class: dataClass, bytes }: Side): void {
    const counts = this.#counts.get(dataClass) ?? noChanges();
    this.#counts.set(dataClass, counts);
    counts[change].items += 1;
    counts[change].bytes += bytes;
  }
}

/** How many items became what, and how large they were, or are. */
export type ChangeCounts = Record<Change, { items: number; bytes: number }>;

const noChanges = (): ChangeCounts =>
  Object.fromEntries(changes.map((change) => [change, { items: 0, bytes: 0 }])) as ChangeCounts;

/** All of them together. */
export function sumOfChanges(some: Iterable<ChangeCounts>): ChangeCounts {
  const sum = noChanges();
  for (const counts of some) {
    for (const change of changes) {
      sum[change].items += counts[change].items;
      sum[change].bytes += counts[change].bytes;
    }
  }
  return sum;
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
