import fc from 'fast-check';
import { expect, test } from 'vitest';
import { drawSample, possibleTwins } from './sampling.js';

const items = fc.array(
  fc.record({
    class: fc.constantFrom('photographs' as const, 'notes' as const),
    bytes: fc.nat(5_000_000),
  }),
  { maxLength: 200 },
);
const random = fc.double({ min: 0, max: 0.999999, noNaN: true });

test('a sample has items of every class that holds anything, each at most once, and never an empty one', () => {
  fc.assert(
    fc.property(items, random, (all, chance) => {
      const drawn = drawSample(all, () => chance);
      expect(new Set(drawn).size).toBe(drawn.length);
      for (const item of drawn) expect(item.bytes).toBeGreaterThan(0);
      const classes = (list: typeof all) => new Set(list.map((i) => i.class));
      expect(classes(drawn)).toEqual(classes(all.filter((i) => i.bytes > 0)));
      expect(drawn.length).toBeLessThanOrEqual(24);
    }),
  );
});

test('large items are drawn as often as they are heavy', () => {
  const all = [
    ...Array.from({ length: 900 }, () => ({ class: 'notes' as const, bytes: 1_000 })),
    ...Array.from({ length: 100 }, () => ({ class: 'notes' as const, bytes: 81_000 })),
  ];
  let large = 0;
  let drawn = 0;
  for (let i = 0; i < 50; i++) {
    for (const item of drawSample(all, () => i / 50)) {
      drawn += 1;
      if (item.bytes === 81_000) large += 1;
    }
  }
  expect(large / drawn).toBeCloseTo(0.9, 1);
});

test('twins are of one length, and every further one of a length counts', () => {
  const item = (bytes: number) => ({ class: 'photographs' as const, bytes });
  const { twins, twinBytes } = possibleTwins(
    [item(5000), item(5000), item(5000), item(7000), item(10), item(10)],
    () => 0.3,
  );
  expect(twinBytes.get('photographs')).toBe(10_000);
  for (const [a, b] of twins) expect(a.bytes).toBe(b.bytes);
  expect(twins.length).toBeGreaterThan(0);
});
