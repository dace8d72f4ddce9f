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

/** Items that can be told apart, of lengths that look uneven and are the same every time. */
const made = (dataClass: 'photographs' | 'notes', count: number, scale: number) =>
  Array.from({ length: count }, (_, i) => ({
    class: dataClass,
    bytes: (((i * 7919) % 97) + 1) * scale,
    name: `${dataClass[0]}${i}`,
  }));

test('a sample is drawn by one start and equal steps, the heavier class first', () => {
  const all = [...made('notes', 40, 100), ...made('photographs', 60, 50_000)];
  const names = (chance: number) => drawSample(all, () => chance).map(({ name }) => name);
  expect(names(0)).toMatchInlineSnapshot(`
    [
      "p0",
      "n0",
      "p5",
      "n3",
      "p10",
      "n6",
      "p15",
      "n10",
      "p20",
      "n14",
      "p25",
      "n17",
      "p29",
      "n20",
      "p34",
      "n23",
      "p40",
      "n26",
      "p45",
      "n29",
      "p50",
      "n32",
      "p54",
      "n37",
      "p59",
      "n39",
    ]
  `);
  expect(names(0.5)).toMatchInlineSnapshot(`
    [
      "p3",
      "n2",
      "p7",
      "n5",
      "p13",
      "n9",
      "p17",
      "n12",
      "p23",
      "n15",
      "p27",
      "n18",
      "p31",
      "n21",
      "p37",
      "n25",
      "p42",
      "n28",
      "p48",
      "n31",
      "p52",
      "n34",
      "p56",
      "n39",
    ]
  `);
  expect(names(0.99)).toMatchInlineSnapshot(`
    [
      "p5",
      "n3",
      "p10",
      "n6",
      "p15",
      "n10",
      "p20",
      "n14",
      "p25",
      "n17",
      "p29",
      "n20",
      "p34",
      "n23",
      "p39",
      "n26",
      "p45",
      "n29",
      "p50",
      "n32",
      "p54",
      "n37",
      "p59",
      "n39",
    ]
  `);
});

test('of items that are long four at least are read, of short ones twelve at most', () => {
  const count = (scale: number) =>
    drawSample(
      Array.from({ length: 300 }, () => ({ class: 'notes' as const, bytes: scale })),
      () => 0.4,
    ).length;
  expect([10, 250_000, 262_144, 400_000, 5_000_000].map(count)).toEqual([12, 12, 12, 12, 12]);
  expect(drawSample([], () => 0.5)).toEqual([]);
});

test('twins below four kilobytes are chance; of the others eight pairs are looked at, the heavy ones rather', () => {
  const pair = (bytes: number) => [
    { class: 'notes' as const, bytes },
    { class: 'photographs' as const, bytes },
  ];
  expect(possibleTwins([...pair(4095)], () => 0).twinBytes.size).toBe(0);
  const edge = possibleTwins([...pair(4096)], () => 0);
  expect([...edge.twinBytes]).toEqual([['photographs', 4096]]);
  expect(edge.twins).toEqual([pair(4096)]);
  const many = Array.from({ length: 40 }, (_, i) => pair(5000 + i * 1000)).flat();
  const seen = (chance: number) =>
    possibleTwins(many, () => chance).twins.map(([{ bytes }]) => bytes / 1000);
  expect(seen(0)).toMatchInlineSnapshot(`
    [
      5,
      16,
      23,
      27,
      32,
      35,
      39,
      42,
    ]
  `);
  expect(seen(0.7)).toMatchInlineSnapshot(`
    [
      14,
      21,
      26,
      30,
      34,
      38,
      41,
      44,
    ]
  `);
  expect(possibleTwins([], () => 0.5)).toEqual({ twins: [], twinBytes: new Map() });
});
