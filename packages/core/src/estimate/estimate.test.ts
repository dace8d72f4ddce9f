import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  estimateStored,
  estimateTime,
  linkModel,
  linkRate,
  linkTime,
  type SampledItem,
} from './estimate.js';

const photographs = { class: 'photographs' as const, items: 100, bytes: 1e8, duplicateShare: 0 };
const sampled = (bytes: number, storedBytes: number, ms = 0): SampledItem => ({
  class: 'photographs',
  bytes,
  storedBytes,
  ms,
});

describe('the size on the rack', () => {
  test('follows what the sample became', () => {
    const sample = Array.from({ length: 12 }, () => sampled(1e6, 5e5));
    const { likely, low, high } = estimateStored([photographs], sample);
    // Whatever there is lies in a pack, which takes a little by itself.
    expect(likely).toBe(5e7 + 56);
    expect(estimateStored([{ ...photographs, items: 0, bytes: 0 }], sample).likely).toBe(0);
    expect(low).toBeLessThan(likely);
    expect(high).toBeGreaterThan(likely);
  });

  test('counts what is twice once', () => {
    const sample = [sampled(1e6, 1e6), sampled(1e6, 1e6), sampled(1e6, 1e6)];
    const once = estimateStored([photographs], sample).likely;
    const half = estimateStored([{ ...photographs, duplicateShare: 0.5 }], sample).likely;
    expect(half / once).toBeCloseTo(0.5, 2);
  });

  test('is less sure of an uneven sample, and least of none at all', () => {
    const width = ({ low, likely, high }: ReturnType<typeof estimateStored>) =>
      (high - low) / likely;
    const even = [0.5, 0.5, 0.5, 0.5].map((r) => sampled(1e6, r * 1e6));
    const uneven = [0.4, 0.6, 0.45, 0.55].map((r) => sampled(1e6, r * 1e6));
    expect(width(estimateStored([photographs], uneven))).toBeGreaterThan(
      width(estimateStored([photographs], even)),
    );
    const notes = { ...photographs, class: 'notes' as const };
    expect(width(estimateStored([notes], []))).toBeGreaterThan(
      width(estimateStored([photographs], uneven)),
    );
  });
});

test('earlier runs move the next estimate towards what they were, not away from it', () => {
  const sample = Array.from({ length: 12 }, () => sampled(1e6, 5e5));
  const runs = (share: number) =>
    Array.from({ length: 20 }, (_, i) => ({ likely: 1e7 + i, actual: (1e7 + i) * share }));
  const after = (share: number) => estimateStored([photographs], sample, runs(share));
  const untaught = estimateStored([photographs], sample).likely;
  expect(after(1.3).likely / untaught).toBeGreaterThan(1.2);
  expect(after(1.3).likely / untaught).toBeLessThan(1.35);
  expect(after(0.7).likely / untaught).toBeLessThan(0.8);
  expect(after(0.7).likely / untaught).toBeGreaterThan(0.65);
  expect(after(1).likely / untaught).toBeCloseTo(1, 2);
});

test('what nobody sampled is taken for what its class mostly is', () => {
  const videos = { ...photographs, class: 'videos' as const };
  const notes = { ...photographs, class: 'notes' as const };
  expect(estimateStored([videos], []).likely).toBeCloseTo(0.97e8, -3);
  expect(estimateStored([notes], []).likely).toBeCloseTo(0.4e8, -3);
  expect(estimateStored([], [])).toMatchObject({ likely: 0, low: 0 });
  // Nothing of nothing is no ratio.
  expect(estimateStored([notes], [{ ...sampled(0, 50), class: 'notes' }]).likely).toBeCloseTo(
    0.4e8,
    -3,
  );
});

describe('the time', () => {
  test('a link is told apart by what an item costs and what a byte costs', () => {
    const sample = [1e3, 1e5, 1e6, 4e6].map((bytes) => ({ bytes, ms: 7 + bytes / 10_000 }));
    const { perItem, perByte } = linkModel(sample);
    expect(perItem).toBeCloseTo(7, 6);
    expect(perByte).toBeCloseTo(1 / 10_000, 9);
  });

  test('learns what a shop’s runs take beside the link, and how unsteady they are', () => {
    const runs = (actual: (link: number, i: number) => number) =>
      Array.from({ length: 30 }, (_, i) => ({
        linkMs: 1000 * (i + 1),
        actual: actual(1000 * (i + 1), i),
      }));
    const untried = estimateTime(10_000);
    expect(untried.likely).toBeGreaterThan(11_000);
    expect(untried.likely).toBeLessThan(12_000);
    const slower = estimateTime(
      10_000,
      runs((link) => 4_000 + 1.5 * link),
    );
    expect(slower.likely).toBeGreaterThan(17_000);
    expect(slower.likely).toBeLessThan(19_500);
    const unsteady = estimateTime(
      10_000,
      runs((link, i) => (i % 2 ? 0.6 : 1.4) * link),
    );
    expect(unsteady.high / unsteady.low).toBeGreaterThan(slower.high / slower.low);
  });

  test('a plan’s link takes so much for each item and so much for each byte', () => {
    const sample = [1e3, 1e6].map((bytes) => ({ bytes, ms: 2 + bytes / 10_000 }));
    expect(linkTime([{ items: 100, bytes: 1e8 }], sample)).toBeCloseTo(10_200, 0);
  });
});

test('is a range around something likely, whatever it is asked', () => {
  const positive = fc.double({ min: 1, max: 1e12, noNaN: true });
  const runs = fc.array(fc.record({ likely: positive, actual: positive }), { maxLength: 60 });
  const samples = fc.array(
    fc.record({
      class: fc.constant('photographs' as const),
      bytes: fc.nat(1e7),
      storedBytes: fc.nat(1e7),
      ms: fc.nat(1e5),
    }),
    { maxLength: 10 },
  );
  fc.assert(
    fc.property(fc.nat(1e12), fc.nat(1e6), samples, runs, (bytes, items, sample, past) => {
      const plan = [{ ...photographs, bytes, items }];
      for (const { low, likely, high } of [
        estimateStored(plan, sample, past),
        estimateTime(
          linkTime(plan, sample),
          past.map(({ likely, actual }) => ({ linkMs: likely, actual })),
        ),
      ]) {
        expect(low).toBeGreaterThanOrEqual(0);
        expect(low).toBeLessThanOrEqual(likely);
        expect(likely).toBeLessThanOrEqual(high);
      }
    }),
  );
});

test('a link’s rate is told whatever its items are like, and not where nothing was read', () => {
  const at = (bytes: number, ms: number) => ({ bytes, ms });
  // 5 ms an item, 20 MB a second.
  expect(linkRate([at(1e6, 55), at(2e6, 105), at(4e6, 205)])).toBeCloseTo(20e6, -3);
  // Small ones on a noisy link: the larger happened to come sooner.
  expect(linkRate([at(100, 3), at(200, 2), at(300, 1)])).toBeCloseTo(100_000, 5);
  expect(linkRate([])).toBeNull();
});

describe('the figures themselves', () => {
  /** Seven digits: more than anybody reads, and the same on every machine. */
  const figures = (range: ReturnType<typeof estimateTime>) =>
    [range.low, range.likely, range.high].map((n) => Number(n.toPrecision(7)));
  const notes = { class: 'notes' as const, items: 40, bytes: 3e5, duplicateShare: 0.25 };
  const ratios = (...all: number[]) => all.map((ratio) => sampled(1e6, ratio * 1e6));
  const run = (likely: number, error: number) => ({ likely, actual: likely * error });

  test('of a size: by the mean of the ratios and its standard error', () => {
    // 1e8 × 0.5; variance of the ratios 0.01 / 3, its mean's error √(0.01 / 3 / 4), 1.2816 of them to each side.
    const { low, likely, high } = estimateStored([photographs], ratios(0.4, 0.6, 0.45, 0.55));
    const sigma = (1e8 * Math.sqrt((2 * 0.1 ** 2 + 2 * 0.05 ** 2) / 3 / 4)) / likely;
    expect(likely).toBeCloseTo(5e7 + 56, 3);
    expect(Math.log(high / likely)).toBeCloseTo(1.2816 * sigma, 6);
    expect(Math.log(likely / low)).toBeCloseTo(1.2816 * sigma, 6);
  });

  test('of a size: for few samples, several classes, and whatever the past was', () => {
    const stored = (...args: Parameters<typeof estimateStored>) => figures(estimateStored(...args));
    const both = [photographs, notes];
    expect({
      one: stored([photographs], ratios(0.5)),
      'one that is almost nothing': stored([photographs], ratios(0.1)),
      two: stored([photographs], ratios(0.5, 0.7)),
      three: stored([photographs], ratios(0.5, 0.7, 0.6)),
      'one class of two': stored(both, ratios(0.9, 0.8, 0.85)),
      'nothing sampled': stored(both, []),
      'videos not sampled': stored([{ ...photographs, class: 'videos' }], []),
      'a run that never ended': stored(both, [], [{ likely: 1e7, actual: 0 }]),
      'four runs': stored(
        both,
        [],
        [0.9, 1.2, 1.1, 1.4].map((e) => run(1e7, e)),
      ),
      'five runs': stored(
        both,
        [],
        [0.9, 1.2, 1.1, 1.4, 1.05].map((e) => run(1e7, e)),
      ),
      'eleven runs': stored(
        both,
        [],
        [0.5, 0.9, 1.2, 1.1, 1.4, 1.05, 2.5, 0.95, 1.15, 0.8, 1].map((e) => run(1e7, e)),
      ),
      'only the newest forty count': stored(
        both,
        [],
        [
          ...Array.from({ length: 40 }, (_, i) => run(1e7, 1 + i / 100)),
          ...Array.from({ length: 40 }, () => run(1e7, 9)),
        ],
      ),
    }).toMatchInlineSnapshot(`
      {
        "a run that never ended": [
          89696770,
          97090060,
          105092700,
        ],
        "eleven runs": [
          53353770,
          101182200,
          191886000,
        ],
        "five runs": [
          85526760,
          103930000,
          126293200,
        ],
        "four runs": [
          98393890,
          106504000,
          115282700,
        ],
        "nothing sampled": [
          89696770,
          97090060,
          105092700,
        ],
        "one": [
          42872570,
          50000060,
          58312470,
        ],
        "one class of two": [
          81469000,
          85090060,
          88872060,
        ],
        "one that is almost nothing": [
          7352265,
          10000060,
          13601400,
        ],
        "only the newest forty count": [
          100620600,
          115041600,
          131529400,
        ],
        "three": [
          53038790,
          60000060,
          67874970,
        ],
        "two": [
          51447080,
          60000060,
          69974950,
        ],
        "videos not sampled": [
          89607350,
          97000060,
          105002700,
        ],
      }
    `);
  });

  test('of a link', () => {
    const at = (bytes: number, ms: number) => ({ bytes, ms });
    const model = (...sample: { bytes: number; ms: number }[]) => {
      const { perItem, perByte } = linkModel(sample);
      return [perItem, perByte].map((n) => Number(n.toPrecision(7)));
    };
    expect({
      none: model(),
      'one item': model(at(1e6, 50)),
      'an empty one': model(at(0, 3)),
      'all of one length': model(at(1000, 2), at(1000, 4)),
      uneven: model(at(1e3, 4), at(5e5, 30), at(2e6, 118), at(8e5, 61)),
      'the larger came sooner': model(at(100, 3), at(200, 2), at(300, 1)),
      'never less than nothing for an item': model(at(1e5, 1), at(1e6, 30)),
    }).toMatchInlineSnapshot(`
      {
        "all of one length": [
          0,
          0.003,
        ],
        "an empty one": [
          3,
          0,
        ],
        "never less than nothing for an item": [
          0,
          0.00003222222,
        ],
        "none": [
          5,
          0.00005,
        ],
        "one item": [
          0,
          0.00005,
        ],
        "the larger came sooner": [
          2,
          0,
        ],
        "uneven": [
          5.992704,
          0.00005726422,
        ],
      }
    `);
    expect(
      linkTime(
        [
          { items: 10, bytes: 1e6 },
          { items: 5, bytes: 2e6 },
        ],
        [],
      ),
    ).toBe(15 * 5 + 3e6 / 20_000);
    expect(linkRate([at(1000, 2), at(1000, 4)])).toBeCloseTo(2000 / 0.006, 6);
    expect(linkRate([at(0, 4)])).toBeNull();
    expect(linkRate([at(1000, 0)])).toBeNull();
  });

  test('of a time: what is assumed at first, and the shop’s own line later', () => {
    const time = (...args: Parameters<typeof estimateTime>) => figures(estimateTime(...args));
    const line = (n: number, wobble: number) =>
      Array.from({ length: n }, (_, i) => ({
        linkMs: 3000 * (i + 1),
        actual: (2500 + 1.2 * 3000 * (i + 1)) * (1 + (i % 3) * wobble),
      }));
    expect({
      'nothing known, a short one': time(500),
      'nothing known, a long one': time(600_000),
      'nothing to do': time(0),
      'three runs': time(10_000, line(3, 0.1)),
      'six runs': time(10_000, line(6, 0.1)),
      'fifty runs, the newest forty': time(10_000, [...line(40, 0.05), ...line(10, 3)]),
      'runs that took no time do not count': time(10_000, [{ linkMs: 5000, actual: 0 }]),
      'quicker the longer it is': time(10_000, [
        { linkMs: 1000, actual: 9000 },
        { linkMs: 30_000, actual: 3000 },
      ]),
      'sooner than its start': time(0, [
        { linkMs: 9000, actual: 1000 },
        { linkMs: 18_000, actual: 9000 },
        { linkMs: 27_000, actual: 17_000 },
      ]),
    }).toMatchInlineSnapshot(`
      {
        "fifty runs, the newest forty": [
          13281.94,
          14248.02,
          15284.37,
        ],
        "nothing known, a long one": [
          436604,
          601500,
          828673.8,
        ],
        "nothing known, a short one": [
          1451.717,
          2000,
          2755.357,
        ],
        "nothing to do": [
          1088.788,
          1500,
          2066.518,
        ],
        "quicker the longer it is": [
          2008.579,
          2767.177,
          3812.28,
        ],
        "runs that took no time do not count": [
          8347.374,
          11500,
          15843.31,
        ],
        "six runs": [
          12176.3,
          14746.02,
          17858.08,
        ],
        "sooner than its start": [
          0.7258586,
          1,
          1.377679,
        ],
        "three runs": [
          10312.32,
          14207.06,
          19572.76,
        ],
      }
    `);
  });
});
