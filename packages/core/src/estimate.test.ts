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
