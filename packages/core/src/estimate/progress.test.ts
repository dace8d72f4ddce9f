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

test('the figures of one piece of work, second by second', () => {
  const meter = new ProgressMeter();
  const total = { bytes: 50_000_000, items: 400 };
  const seen: (number | null)[][] = [];
  let bytes = 0;
  let items = 0;
  for (let s = 0; s <= 30; s++) {
    meter.record({ bytes, items }, 1_000_000 + s * 1000);
    const { rate, leftLowMs, leftHighMs } = meter.read(total);
    if (s < 5 || s % 5 === 0)
      seen.push([s, rate, leftLowMs, leftHighMs].map((n) => (n === null ? n : Math.round(n))));
    bytes += s < 10 ? 1_000_000 + (s % 3) * 200_000 : 2_000_000;
    items += s % 2;
  }
  expect(seen).toMatchInlineSnapshot(`
    [
      [
        0,
        0,
        null,
        null,
      ],
      [
        1,
        1000000,
        null,
        null,
      ],
      [
        2,
        1100000,
        56371,
        76151,
      ],
      [
        3,
        1200000,
        52445,
        67165,
      ],
      [
        4,
        1150000,
        54534,
        66584,
      ],
      [
        5,
        1160000,
        54567,
        63663,
      ],
      [
        10,
        1180000,
        49495,
        55614,
      ],
      [
        15,
        1453333,
        32884,
        39697,
      ],
      [
        20,
        1590000,
        24700,
        28838,
      ],
      [
        25,
        1800000,
        17058,
        19120,
      ],
      [
        30,
        2000000,
        10705,
        11832,
      ],
    ]
  `);
});

test('readings several times a second are put together to about a second', () => {
  const meter = new ProgressMeter();
  for (let i = 0; i <= 40; i++)
    meter.record({ bytes: i * 100_000 + (i % 2) * 90_000, items: 0 }, i * 250);
  const { rate, leftLowMs, leftHighMs } = meter.read({ bytes: 8_000_000, items: 0 });
  expect([rate, leftLowMs, leftHighMs].map((n) => Math.round(n ?? -1))).toMatchInlineSnapshot(`
    [
      400000,
      9524,
      10526,
    ]
  `);
});

test('what stands still has no time left to tell, and what is beyond its total none left at all', () => {
  const still = new ProgressMeter();
  expect(still.read({ bytes: 1, items: 0 })).toEqual({
    rate: 0,
    leftLowMs: null,
    leftHighMs: null,
  });
  still.record({ bytes: 5, items: 0 }, 1000);
  expect(still.read({ bytes: 9, items: 0 }).rate).toBe(0);
  still.record({ bytes: 5, items: 0 }, 9000);
  expect(still.read({ bytes: 9, items: 0 })).toEqual({
    rate: 0,
    leftLowMs: null,
    leftHighMs: null,
  });
  expect(steady(1e6, 10).read({ bytes: 1e6, items: 0 })).toMatchObject({
    leftLowMs: 0,
    leftHighMs: 0,
  });
});

test('a range is never narrower than a twentieth nor wider than three fifths to each side', () => {
  const { leftLowMs, leftHighMs } = steady(1e6, 20).read({ bytes: 1e8, items: 0 });
  expect(leftLowMs).toBeCloseTo(80_000 / 1.05, 0);
  expect(leftHighMs).toBeCloseTo(80_000 / 0.95, 0);
  const wild = new ProgressMeter();
  for (let s = 0; s <= 3; s++) wild.record({ bytes: s === 3 ? 9e6 : 0, items: 0 }, s * 1000);
  const wide = wild.read({ bytes: 12e6, items: 0 });
  expect([wide.leftLowMs, wide.leftHighMs].map((n) => Math.round(n ?? 0))).toEqual([625, 2500]);
});

test('only what is older than twenty seconds is forgotten, and two readings are always kept', () => {
  const meter = new ProgressMeter();
  // Quick at first, then slow: the rate tells which of it still counts.
  meter.record({ bytes: 0, items: 0 }, 0);
  meter.record({ bytes: 10_000_000, items: 0 }, 1_000);
  meter.record({ bytes: 11_000_000, items: 0 }, 20_999);
  expect(meter.read({ bytes: 1e9, items: 0 }).rate).toBeCloseTo(11_000_000 / 20.999, 3);
  meter.record({ bytes: 11_000_001, items: 0 }, 21_000);
  expect(meter.read({ bytes: 1e9, items: 0 }).rate).toBeCloseTo(1_000_001 / 20, 3);
  meter.record({ bytes: 12_000_000, items: 0 }, 99_000);
  expect(meter.read({ bytes: 1e9, items: 0 }).rate).toBeCloseTo(999_999 / 78, 3);
});

test('after too few seconds to tell, the range is as wide as for work that is three tenths off', () => {
  const meter = new ProgressMeter();
  meter.record({ bytes: 0, items: 0 }, 0);
  meter.record({ bytes: 2_000_000, items: 0 }, 2_000);
  const { leftLowMs, leftHighMs } = meter.read({ bytes: 12_000_000, items: 0 });
  expect(leftLowMs).toBeCloseTo(10_000 / (1 + 1.28 * 0.3), 3);
  expect(leftHighMs).toBeCloseTo(10_000 / (1 - 1.28 * 0.3), 3);
});
