import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { dataClassIds } from '../device/index.js';
import {
  choiceOf,
  choose,
  chooseMany,
  classKey,
  groupKey,
  isChosen,
  itemKey,
  quickClasses,
  tallies,
  triState,
  withoutItems,
  type Choice,
} from './choice.js';
import { Hits } from '../test-hits.js';

const item = fc.record({
  class: fc.constantFrom('photographs' as const, 'messages' as const, 'applications' as const),
  group: fc.constantFrom('', 'a', 'b', 'c-d'),
  id: fc.constantFrom('1', '2', '3', '4'),
  bytes: fc.nat(1000),
});
const step = fc.record({
  on: fc.boolean(),
  key: item.chain((i) =>
    fc.constantFrom(classKey(i.class), groupKey(i.class, i.group), itemKey(i)),
  ),
});
const steps = fc.array(step, { maxLength: 20 });
const items = fc.uniqueArray(item, { selector: itemKey, maxLength: 30 });

/** The same, said once for each item: what the few words must mean. */
function oneByOne(
  all: readonly { class: 'photographs' | 'messages' | 'applications'; group: string; id: string }[],
  walk: readonly { key: string; on: boolean }[],
) {
  const chosen = new Map<string, boolean>();
  for (const { key, on } of walk) {
    for (const i of all) {
      const concerned = [classKey(i.class), groupKey(i.class, i.group), itemKey(i)].includes(key);
      if (concerned) chosen.set(itemKey(i), on);
    }
  }
  return all.map((i) => chosen.get(itemKey(i)) ?? false);
}

describe('a choice', () => {
  test('means what each press of it meant for each item', () => {
    fc.assert(
      fc.property(items, steps, (all, walk) => {
        const choice = walk.reduce<Choice>((c, { key, on }) => choose(c, key, on), {});
        expect(all.map((i) => isChosen(choice, i))).toEqual(oneByOne(all, walk));
      }),
    );
  });

  test('keeps no word that says what the one above it says', () => {
    fc.assert(
      fc.property(steps, (walk) => {
        const choice = walk.reduce<Choice>((c, { key, on }) => choose(c, key, on), {});
        for (const [key, on] of Object.entries(choice)) {
          const without = Object.fromEntries(Object.entries(choice).filter(([k]) => k !== key));
          const above = key.includes('#')
            ? (without[key.split('#')[0] ?? ''] ?? without[key.split('/')[0] ?? ''] ?? false)
            : (without[key.split('/')[0] ?? ''] ?? false);
          expect(above).toBe(!on);
        }
      }),
    );
  });

  test('of a group says the same of all in it, whatever was said of its items, and nothing of others', () => {
    const said = {
      'photographs/2026#x': true,
      'photographs/2026#y': true,
      'photographs/20#x': true,
      'messages/2026#x': true,
    };
    const kept = { 'photographs/20#x': true, 'messages/2026#x': true };
    expect(choose(said, 'photographs/2026', true)).toEqual({ ...kept, 'photographs/2026': true });
    expect(choose(said, 'photographs/2026', false)).toEqual(kept);
    expect(choose(said, 'photographs', true)).toEqual({
      'messages/2026#x': true,
      photographs: true,
    });
    expect(choose({ 'photographs/2026': true }, 'photographs/2026#x', false)).toEqual({
      'photographs/2026': true,
      'photographs/2026#x': false,
    });
  });

  test('is tallied for every class and every group that has anything', () => {
    const of = (group: string, id: string) => ({ class: 'notes' as const, group, id, bytes: 10 });
    const found = tallies([of('a', '1'), of('a', '2'), of('b', '1')], { 'notes/a#2': true });
    expect([...found.keys()].sort()).toEqual(['notes', 'notes/a', 'notes/b']);
    expect(found.get('notes')).toEqual({ items: 3, bytes: 30, chosenItems: 1, chosenBytes: 10 });
    expect(found.get('notes/a')).toEqual({ items: 2, bytes: 20, chosenItems: 1, chosenBytes: 10 });
  });

  test('adds up: a class is all, none or some of its items, and so is a group', () => {
    const met = new Hits('all', 'none', 'some');
    fc.assert(
      fc.property(items, steps, (all, walk) => {
        const choice = walk.reduce<Choice>((c, { key, on }) => choose(c, key, on), {});
        const found = tallies(all, choice);
        for (const [key, tally] of found) {
          const inside = all.filter((i) => key === i.class || key === groupKey(i.class, i.group));
          const chosen = inside.filter((i) => isChosen(choice, i));
          expect(tally).toEqual({
            items: inside.length,
            bytes: inside.reduce((sum, i) => sum + i.bytes, 0),
            chosenItems: chosen.length,
            chosenBytes: chosen.reduce((sum, i) => sum + i.bytes, 0),
          });
          const expected =
            chosen.length === 0 ? 'none' : chosen.length === inside.length ? 'all' : 'some';
          met.hit(expected);
          expect(triState(tally)).toBe(expected);
        }
      }),
      { numRuns: 1000 },
    );
    met.expectEach(50);
  });

  test('of many at once is the same as one after the other', () => {
    fc.assert(
      fc.property(steps, fc.array(step.map((s) => s.key)), fc.boolean(), (walk, keys, on) => {
        const choice = walk.reduce<Choice>((c, { key, on: o }) => choose(c, key, o), {});
        // Whole groups and classes first: what is said of a single item counts more.
        const order = [
          ...keys.filter((k) => !k.includes('#')),
          ...keys.filter((k) => k.includes('#')),
        ];
        const expected = order.reduce<Choice>((c, key) => choose(c, key, on), choice);
        expect(chooseMany(choice, keys, on)).toEqual(expected);
      }),
    );
  });

  test('is remembered without single items', () => {
    const choice = { photographs: true, 'photographs/2026': false, 'photographs/2026#x': true };
    expect(withoutItems(choice)).toEqual({ photographs: true, 'photographs/2026': false });
  });

  test('of everything has every class, and the quick set is part of it', () => {
    const everything = choiceOf('everything', {});
    for (const id of dataClassIds) expect(everything[id]).toBe(true);
    expect(Object.keys(choiceOf('quick', {}))).toEqual([...quickClasses]);
    expect(quickClasses.every((c) => everything[c])).toBe(true);
  });
});
