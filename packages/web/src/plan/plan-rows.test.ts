import type { Listing } from '@bright-cellar/contract';
import { dataClassIds, type DataClass } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { indexOf, rowsOf } from './plan-rows.js';

interface Item {
  class: DataClass;
  group: string;
  name: string;
  bytes: number;
}

function listingOf(items: readonly Item[], named = true): Listing {
  const groupIds = [...new Set(items.map((item) => item.group))];
  return {
    revision: 'r1',
    groups: [
      {
        class: 'messages',
        id: 'ada',
        name: 'Ada Birch',
        kind: 'thread',
        items: 1,
        bytes: 1,
        sealed: false,
        offered: null,
      },
      {
        class: 'applications',
        id: 'tansy',
        name: 'Tansy',
        kind: 'application',
        items: 1,
        bytes: 1,
        sealed: true,
        offered: true,
      },
    ],
    ids: items.map((_, i) => `id-${i}`),
    classes: items.map((item) => dataClassIds.indexOf(item.class)),
    inGroups: items.map((item) => groupIds.indexOf(item.group)),
    groupIds,
    names: named ? items.map((item) => item.name) : null,
    bytes: items.map((item) => item.bytes),
    modified: items.map(() => Date.UTC(2026, 10, 24, 12)),
  };
}

const items: Item[] = [
  { class: 'messages', group: 'ada', name: 'messages/ada/2026.jsonl', bytes: 300 },
  { class: 'messages', group: 'ada', name: 'messages/ada/1.jpg', bytes: 5000 },
  { class: 'messages', group: 'bram', name: 'messages/bram/2026.jsonl', bytes: 200 },
  { class: 'notes', group: '', name: 'notes/a.md', bytes: 10 },
  { class: 'applications', group: 'tansy', name: 'applications/tansy/store', bytes: 900 },
];
const keys = (open: string[], finest: 'groups' | 'items' = 'items') =>
  rowsOf(indexOf(listingOf(items)), new Set(open), finest).map((row) => row.key);

describe('the lines of a plan', () => {
  test('are its classes at first, in the order that they have everywhere', () => {
    expect(keys([])).toEqual(dataClassIds.filter((c) => items.some((item) => item.class === c)));
  });

  test('open to groups, and these to items', () => {
    const opened = keys(['messages', 'messages/ada']);
    expect(opened.slice(opened.indexOf('messages'), opened.indexOf('messages') + 5)).toEqual([
      'messages',
      'messages/ada',
      'messages/ada#id-0',
      'messages/ada#id-1',
      'messages/bram',
    ]);
  });

  test('a class of one lump opens to its items at once', () => {
    expect(keys(['notes'])).toContain('notes/#id-3');
  });

  test('a device that is chosen from by groups only shows no items', () => {
    const rows = rowsOf(
      indexOf(listingOf(items)),
      new Set(['messages', 'messages/ada', 'notes']),
      'groups',
    );
    expect(rows.every((row) => row.kind !== 'item')).toBe(true);
    expect(rows.find((row) => row.key === 'notes')?.opens).toBe(false);
    expect(rows.find((row) => row.key === 'messages/ada')?.opens).toBe(false);
  });

  test('say what is sealed, on the class and on the group', () => {
    const rows = rowsOf(indexOf(listingOf(items)), new Set(['applications']), 'items');
    expect(rows.filter((row) => row.sealed).map((row) => row.key)).toEqual([
      'applications',
      'applications/tansy',
    ]);
  });

  test('name items only where looking inside was agreed', () => {
    const named = rowsOf(indexOf(listingOf(items)), new Set(['notes']), 'items');
    expect(named.at(-1)?.name ?? '').not.toMatch(/^Item/);
    const rows = rowsOf(indexOf(listingOf(items, false)), new Set(['notes']), 'items');
    const item = rows.find((row) => row.kind === 'item');
    expect(item?.name).toBe('Item 4, 24 Nov 2026');
    expect(JSON.stringify(rows)).not.toContain('a.md');
  });
});

test('whatever is listed: items and bytes of the classes are those of the device, and so are those of all groups', () => {
  const listed = fc.array(
    fc.record({
      class: fc.constantFrom('messages' as const, 'photographs' as const, 'notes' as const),
      group: fc.constantFrom('', 'a', 'b'),
      name: fc.constant('x'),
      bytes: fc.nat(1e9),
    }),
    { maxLength: 60 },
  );
  fc.assert(
    fc.property(listed, (all) => {
      const index = indexOf(listingOf(all));
      const open = new Set(dataClassIds as readonly string[]);
      const rows = rowsOf(index, open, 'items');
      const classes = rows.filter((row) => row.kind === 'class');
      const sum = (of: typeof rows, what: 'items' | 'bytes') =>
        of.reduce((total, row) => total + row[what], 0);
      expect(sum(classes, 'items')).toBe(all.length);
      expect(sum(classes, 'bytes')).toBe(all.reduce((total, item) => total + item.bytes, 0));
      for (const row of classes) {
        const below = rows.filter((r) => r.class === row.class && r.kind !== 'class');
        const groups = below.filter((r) => r.kind === 'group');
        expect(sum(groups.length > 0 ? groups : below, 'bytes')).toBe(row.bytes);
      }
      expect(new Set(rows.map((row) => row.key)).size).toBe(rows.length);
    }),
  );
});
