import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  countOf,
  formatBytesRange,
  formatBytes,
  formatCount,
  formatDuration,
  formatDurationRange,
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
