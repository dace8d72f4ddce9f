import type { DataClass } from '../device/index.js';

/** What sampling needs to know of an item. */
export interface Samplable {
  class: DataClass;
  bytes: number;
}

/** No more is read of one item: its beginning stands for the rest. */
export const SAMPLE_READ_BYTES = 2 ** 18;
/** How many items of one class are read. */
const PER_CLASS = 12;
/** And how many bytes, of all of them together. */
const CLASS_READ_BYTES = 3 * 2 ** 20;
/** Below this, items that are as long as each other are so by chance. */
const TWIN_BYTES = 4096;
const TWIN_PAIRS = 8;

/**
 * Items to be read before an estimate, in an order in which each beginning of the list says something of
 * every class, the heavier ones first: of each class a few, drawn in proportion to their size by one random
 * start and equal steps (systematic sampling), so that large items are as likely as they are heavy.
 * @param random from 0 up to, not including, 1
 */
export function drawSample<Item extends Samplable>(
  items: readonly Item[],
  random: () => number,
): Item[] {
  const byClass = new Map<DataClass, Item[]>();
  for (const item of items) {
    if (item.bytes === 0) continue;
    const list = byClass.get(item.class);
    if (list) list.push(item);
    else byClass.set(item.class, [item]);
  }
  const byWeight: { total: number; drawn: Item[] }[] = [];
  for (const list of byClass.values()) {
    const total = list.reduce((sum, i) => sum + i.bytes, 0);
    const typical = Math.min(SAMPLE_READ_BYTES, total / list.length);
    const count = Math.max(4, Math.min(PER_CLASS, Math.floor(CLASS_READ_BYTES / typical)));
    byWeight.push({ total, drawn: systematic(list, total, count, random()) });
  }
  byWeight.sort((a, b) => b.total - a.total);
  const longest = Math.max(0, ...byWeight.map(({ drawn }) => drawn.length));
  return Array.from({ length: longest }, (_, turn) =>
    byWeight.flatMap(({ drawn }) => drawn.slice(turn, turn + 1)),
  ).flat();
}

function systematic<Item extends Samplable>(
  items: readonly Item[],
  total: number,
  count: number,
  start: number,
): Item[] {
  const step = total / count;
  const drawn: Item[] = [];
  let next = start * step;
  let passed = 0;
  for (const item of items) {
    passed += item.bytes;
    if (passed <= next) continue;
    drawn.push(item);
    while (next < passed) next += step;
  }
  return drawn;
}

/** Two items of the same length, which may be the same. */
export type Twins<Item> = readonly [Item, Item];

/** Bytes of each class that have a twin by length, and a few pairs to look at. */
export function possibleTwins<Item extends Samplable>(
  items: readonly Item[],
  random: () => number,
): { twins: Twins<Item>[]; twinBytes: Map<DataClass, number> } {
  const byLength = new Map<number, Item[]>();
  for (const item of items) {
    if (item.bytes < TWIN_BYTES) continue;
    const list = byLength.get(item.bytes);
    if (list) list.push(item);
    else byLength.set(item.bytes, [item]);
  }
  const twinBytes = new Map<DataClass, number>();
  const pairs: (Samplable & { pair: Twins<Item> })[] = [];
  for (const list of byLength.values()) {
    const [first, ...others] = list;
    if (!first) continue;
    for (const other of others) {
      twinBytes.set(other.class, (twinBytes.get(other.class) ?? 0) + other.bytes);
      pairs.push({ class: other.class, bytes: other.bytes, pair: [first, other] });
    }
  }
  const total = pairs.reduce((sum, p) => sum + p.bytes, 0);
  const drawn = total > 0 ? systematic(pairs, total, TWIN_PAIRS, random()) : [];
  return { twins: drawn.map((p) => p.pair), twinBytes };
}
