import fc from 'fast-check';
import { dataClassIds } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { Tally } from './tally.js';

const item = fc.record({ class: fc.constantFrom(...dataClassIds), bytes: fc.nat(1_000_000) });
const failure = fc.record({
  class: fc.constantFrom(...dataClassIds),
  reason: fc.constantFrom('the device could not read it', 'it changed while it was read'),
});

test('keeps the ids of what failed, two hundred of one reason at the most', () => {
  const tally = new Tally();
  for (let n = 0; n < 250; n++) tally.failed('photographs', 'it changed', `id-${n}`);
  tally.failed('notes', 'it changed', 'other');
  tally.failed('notes', 'it changed');
  const [photographs, notes] = tally.counts().failed;
  expect(photographs).toMatchObject({ count: 250 });
  expect(photographs?.ids).toHaveLength(200);
  expect(notes).toEqual({ class: 'notes', reason: 'it changed', count: 2, ids: ['other'] });
});

test('counts every item once, by class, and every failure once, by class and reason', () => {
  fc.assert(
    fc.property(fc.array(item), fc.array(failure), (items, failures) => {
      const tally = new Tally();
      for (const { class: dataClass, bytes } of items) {
        tally.taken({
          class: dataClass,
          kind: 'file',
          path: 'a',
          bytes,
          modified: '2026-01-02T03:04:05.000Z',
          mode: null,
          mark: '',
        });
      }
      for (const { class: dataClass, reason } of failures) tally.failed(dataClass, reason);
      const { classes, failed } = tally.counts();
      const sum = (numbers: number[]) => numbers.reduce((total, n) => total + n, 0);
      expect(sum(classes.map((c) => c.items))).toBe(items.length);
      expect(sum(classes.map((c) => c.bytes))).toBe(sum(items.map(({ bytes }) => bytes)));
      for (const { class: dataClass, items: count } of classes) {
        expect(count).toBe(items.filter((i) => i.class === dataClass).length);
      }
      expect(sum(failed.map((f) => f.count))).toBe(failures.length);
      const keys = failed.map((f) => `${f.class} ${f.reason}`);
      expect(new Set(keys).size).toBe(keys.length);
    }),
  );
});
