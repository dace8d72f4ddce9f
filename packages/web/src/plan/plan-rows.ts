import type { Listing } from '@bright-cellar/contract';
import {
  classKey,
  dataClasses,
  dataClassIds,
  groupKey,
  itemKey,
  type Choosable,
  type DataClass,
} from '@bright-cellar/core';

/** One line of the plan's table. */
export interface PlanRow {
  key: string;
  kind: 'class' | 'group' | 'item';
  class: DataClass;
  name: string;
  depth: 0 | 1 | 2;
  items: number;
  bytes: number;
  /** Has lines below it that can be shown. */
  opens: boolean;
  sealed: boolean;
}

/** A listing, made ready to be shown: which items are in which class and group. */
export interface PlanIndex {
  items: readonly (Choosable & { bytes: number })[];
  classes: readonly {
    class: DataClass;
    items: number;
    bytes: number;
    groups: readonly GroupIndex[];
  }[];
  listing: Listing;
}
interface GroupIndex {
  id: string;
  name: string;
  bytes: number;
  sealed: boolean;
  /** Places in the listing. */
  members: readonly number[];
}

export function indexOf(listing: Listing): PlanIndex {
  const byClass = new Map<DataClass, Map<string, number[]>>();
  const items = listing.ids.map((id, i) => {
    const dataClass = dataClassIds[listing.classes[i] ?? 0] ?? 'documents';
    const group = listing.groupIds[listing.inGroups[i] ?? 0] ?? '';
    const groups = byClass.get(dataClass) ?? new Map<string, number[]>();
    byClass.set(dataClass, groups);
    const members = groups.get(group);
    if (members) members.push(i);
    else groups.set(group, [i]);
    return { class: dataClass, group, id, bytes: listing.bytes[i] ?? 0 };
  });
  const bytesOf = (members: readonly number[]) =>
    members.reduce((sum, i) => sum + (listing.bytes[i] ?? 0), 0);
  const classes = dataClassIds.flatMap((dataClass) => {
    const groups = byClass.get(dataClass);
    if (!groups) return [];
    const described = [...groups].map(([id, members]): GroupIndex => {
      const known = listing.groups.find((g) => g.class === dataClass && g.id === id);
      return {
        id,
        name: known?.name ?? 'Everything else',
        bytes: bytesOf(members),
        sealed: known?.sealed ?? false,
        members,
      };
    });
    return [
      {
        class: dataClass,
        items: described.reduce((sum, g) => sum + g.members.length, 0),
        bytes: described.reduce((sum, g) => sum + g.bytes, 0),
        groups: described,
      },
    ];
  });
  return { items, classes, listing };
}

/** The lines that are in sight: each class, and below what is opened its groups and their items. */
export function rowsOf(
  index: PlanIndex,
  open: ReadonlySet<string>,
  finest: 'groups' | 'items',
): PlanRow[] {
  const rows: PlanRow[] = [];
  for (const { class: dataClass, items, bytes, groups } of index.classes) {
    const key = classKey(dataClass);
    // A class that is one lump has no groups worth a line of their own.
    const [only] = groups;
    const lump = groups.length === 1 && only?.id === '';
    rows.push({
      key,
      kind: 'class',
      class: dataClass,
      name: dataClasses[dataClass],
      depth: 0,
      items,
      bytes,
      opens: lump ? finest === 'items' : true,
      sealed: groups.some((g) => g.sealed),
    });
    if (!open.has(key)) continue;
    for (const group of groups) {
      const ofGroup = groupKey(dataClass, group.id);
      if (!lump) {
        rows.push({
          key: ofGroup,
          kind: 'group',
          class: dataClass,
          name: group.name,
          depth: 1,
          items: group.members.length,
          bytes: group.bytes,
          opens: finest === 'items',
          sealed: group.sealed,
        });
        if (!open.has(ofGroup)) continue;
      }
      if (finest !== 'items') continue;
      for (const i of group.members) rows.push(itemRow(index, i, lump ? 1 : 2));
    }
  }
  return rows;
}

function itemRow({ items, listing }: PlanIndex, i: number, depth: 1 | 2): PlanRow {
  const item = items[i];
  if (!item) throw new RangeError('no such item in the listing');
  return {
    key: itemKey(item),
    kind: 'item',
    class: item.class,
    name: listing.names?.[i] ?? `Item ${i + 1}, ${dayOf(listing.modified[i] ?? 0)}`,
    depth,
    items: 1,
    bytes: item.bytes,
    opens: false,
    sealed: false,
  };
}

const format = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
});
const dayOf = (ms: number) => format.format(new Date(ms));
