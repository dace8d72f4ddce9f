import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { estimateStored, estimateTime, linkModel, type SampledItem } from './estimate.js';

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
    expect(likely).toBeCloseTo(5e7 + 3000, -3);
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

describe('the time', () => {
  test('a link is told apart by what an item costs and what a byte costs', () => {
    const sample = [1e3, 1e5, 1e6, 4e6].map((bytes) => ({ bytes, ms: 7 + bytes / 10_000 }));
    const { perItem, perByte } = linkModel(sample);
    expect(perItem).toBeCloseTo(7, 6);
    expect(perByte).toBeCloseTo(1 / 10_000, 9);
  });

  test('learns from how the shop’s runs came out, and widens its range by how unsteady they were', () => {
    const plan = [{ items: 10, bytes: 1e8 }];
    const sample = [1e3, 1e6].map((bytes) => ({ bytes, ms: 1 + bytes / 10_000 }));
    const first = estimateTime(plan, sample).likely;
    const slower = Array.from({ length: 30 }, () => ({ likely: 1000, actual: 1500 }));
    const learned = estimateTime(plan, sample, slower);
    expect(learned.likely / first).toBeGreaterThan(1.4);
    expect(learned.likely / first).toBeLessThan(1.51);
    const unsteady = Array.from({ length: 30 }, (_, i) => ({
      likely: 1000,
      actual: i % 2 ? 700 : 1400,
    }));
    const wide = estimateTime(plan, sample, unsteady);
    expect(wide.high / wide.low).toBeGreaterThan(learned.high / learned.low);
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
        estimateTime(plan, sample, past),
      ]) {
        expect(low).toBeGreaterThanOrEqual(0);
        expect(low).toBeLessThanOrEqual(likely);
        expect(likely).toBeLessThanOrEqual(high);
      }
    }),
  );
});
