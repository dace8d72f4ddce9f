import fc from 'fast-check';
import { expect, test } from 'vitest';
import { ProgressMeter } from './progress.js';

function steady(bytesPerSecond: number, seconds: number): ProgressMeter {
  const meter = new ProgressMeter();
  for (let ms = 0; ms <= seconds * 1000; ms += 400) {
    meter.record({ bytes: (bytesPerSecond * ms) / 1000, items: 0 }, ms);
  }
  return meter;
}

test('says nothing about the time left before it has seen enough', () => {
  expect(steady(1e6, 1).read({ bytes: 1e9, items: 0 }).leftLowMs).toBeNull();
});

test('a steady rate is read exactly, and the range holds the truth', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 10_000, max: 1e9 }),
      fc.integer({ min: 6, max: 60 }),
      (rate, seconds) => {
        const total = rate * (seconds + 100);
        const reading = steady(rate, seconds).read({ bytes: total, items: 0 });
        expect(reading.rate).toBeCloseTo(rate, -2);
        expect(reading.leftLowMs).toBeLessThanOrEqual(100_600);
        expect(reading.leftHighMs).toBeGreaterThanOrEqual(99_400);
      },
    ),
  );
});

test('an unsteady rate gives a wider range than a steady one', () => {
  const unsteady = new ProgressMeter();
  let bytes = 0;
  for (let s = 0; s <= 20; s++) {
    unsteady.record({ bytes, items: 0 }, s * 1000);
    bytes += s % 2 === 0 ? 1_900_000 : 100_000;
  }
  const width = (meter: ProgressMeter) => {
    const { leftLowMs, leftHighMs } = meter.read({ bytes: 1e8, items: 0 });
    return (leftHighMs ?? 0) / (leftLowMs ?? 1);
  };
  expect(width(unsteady)).toBeGreaterThan(width(steady(1e6, 20)) * 1.2);
});

test('a crowd of small items does not look like an hour', () => {
  // 100 kB a second while a thousand small items pass, with 300 MB of photographs to come.
  const meter = new ProgressMeter();
  for (let s = 0; s <= 5; s++) meter.record({ bytes: s * 100_000, items: s * 200 }, s * 1000);
  const { leftHighMs } = meter.read({ bytes: 3e8, items: 1200 });
  expect(leftHighMs).toBeLessThan(120_000);
});
