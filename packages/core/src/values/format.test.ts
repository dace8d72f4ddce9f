import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  countOf,
  formatBytesRange,
  formatBytes,
  formatCount,
  formatDuration,
  formatDurationRange,
  formatRate,
} from './format.js';

describe('sizes', () => {
  test.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.00 kB'],
    [12_340, '12.3 kB'],
    [340_500_000, '341 MB'],
    [999_600_000, '1.00 GB'],
    [128_000_000_000, '128 GB'],
    [1_500_000_000_000, '1.50 TB'],
  ])('%d bytes read %s', (bytes, text) => {
    expect(formatBytes(bytes)).toBe(text);
  });

  test('stay within half a unit of the last digit shown, whatever the size', () => {
    const units: Record<string, number> = { B: 1, kB: 1e3, MB: 1e6, GB: 1e9, TB: 1e12 };
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 9e14 }), (bytes) => {
        const [number = '', unit = ''] = formatBytes(bytes).split(' ');
        const back = Number(number) * (units[unit] ?? Number.NaN);
        expect(Math.abs(back - bytes)).toBeLessThanOrEqual(bytes * 0.0051);
      }),
    );
  });
});

describe('times', () => {
  test.each([
    [45_000, '45 s'],
    [200_000, '3 min 20 s'],
    [3_540_000, '59 min'],
    [7_500_000, '2 h 05 min'],
  ])('%d ms read %s', (ms, text) => {
    expect(formatDuration(ms)).toBe(text);
  });

  test.each([
    [12_100, 18_900, '10–20 s'],
    [61_000, 290_000, '1–5 min'],
    [20_000, 300_000, '1–5 min'],
    [21_000, 24_000, '20–25 s'],
    [5_000, 5_000, 'about 5 s'],
    [3_000_000, 4_300_000, '50 min–1 h 20 min'],
  ])('from %d to %d ms left reads %s', (low, high, text) => {
    expect(formatDurationRange(low, high)).toBe(text);
  });
});

test('counts are grouped, and one is not many', () => {
  expect(formatCount(1_234_567)).toBe('1,234,567');
  expect(countOf(1, 'item')).toBe('1 item');
  expect(countOf(3214, 'item')).toBe('3,214 items');
});

test.each([
  [310e6, 330e6, '310–330 MB'],
  [980e6, 1.1e9, '980 MB–1.10 GB'],
  [5e6, 5e6, '5.00 MB'],
])('a range of sizes says its unit once where it can', (low, high, text) => {
  expect(formatBytesRange(low, high)).toBe(text);
});

test.each([
  [999.6, '1000 B'],
  [9_994, '9.99 kB'],
  [10_000, '10.0 kB'],
  [99_900, '99.9 kB'],
  [100_000, '100 kB'],
  [999_400, '999 kB'],
  [999_500, '1.00 MB'],
  [1e6, '1.00 MB'],
  [1e9, '1.00 GB'],
  [1e12, '1.00 TB'],
  [999.7e9, '1.00 TB'],
  [1_234e12, '1234 TB'],
])('at the edge of a unit %d bytes read %s', (bytes, text) => {
  expect(formatBytes(bytes)).toBe(text);
});

test.each([
  [-5, '0 s'],
  [499, '0 s'],
  [500, '1 s'],
  [59_499, '59 s'],
  [60_000, '1 min'],
  [61_000, '1 min 1 s'],
  [599_000, '9 min 59 s'],
  [600_000, '10 min'],
  [629_000, '10 min'],
  [631_000, '11 min'],
  [3_599_000, '60 min'],
  [3_600_000, '1 h 00 min'],
  [3_660_000, '1 h 01 min'],
  [86_399_000, '23 h 59 min'],
])('at the edge of a step %d ms read %s', (ms, text) => {
  expect(formatDuration(ms)).toBe(text);
});

test.each([
  [0, 0, 'about 5 s'],
  [4_000, 6_000, '5–10 s'],
  [50_000, 89_999, '50 s–1 min 30 s'],
  [50_000, 90_000, '1–2 min'],
  [60_000, 3_599_999, '1 min–1 h 00 min'],
  [60_000, 3_600_000, '10 min–1 h 00 min'],
  [900_000, 3_600_001, '10 min–1 h 10 min'],
  [30_000, 20_000, 'about 30 s'],
])('from %d to %d ms left reads %s, no finer than it deserves', (low, high, text) => {
  expect(formatDurationRange(low, high)).toBe(text);
});

test.each([
  [0, '0'],
  [999, '999'],
  [1_000, '1,000'],
  [999_999.6, '1,000,000'],
])('%d is counted as %s', (n, text) => {
  expect(formatCount(n)).toBe(text);
});

test('a rate is a size a second; other plurals are given', () => {
  expect(formatRate(24.13e6)).toBe('24.1 MB/s');
  expect(countOf(2, 'entry', 'entries')).toBe('2 entries');
  expect(countOf(0, 'item')).toBe('0 items');
});

test('half a minute more than ten is eleven, an hour is never sixty minutes and more', () => {
  expect(formatDuration(3_599_499)).toBe('60 min');
  expect(formatDuration(3_599_500)).toBe('1 h 00 min');
  expect(formatDuration(120_000)).toBe('2 min');
  expect(formatBytes(1e12 - 1)).toBe('1.00 TB');
  expect(formatBytesRange(1, 2)).toBe('1–2 B');
});
