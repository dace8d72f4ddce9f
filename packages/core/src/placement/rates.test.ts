import { expect, test } from 'vitest';
import { rateFrom } from './rates.js';

const at = (...rates: number[]) => rates.map((rate) => ({ bytes: rate * 10, durationMs: 10_000 }));

test('a rate is where most of what was measured was, and wider the less that is', () => {
  expect(rateFrom(at(50e6, 60e6, 70e6, 80e6, 90e6, 1e6))).toEqual({ low: 50e6, high: 80e6 });
  expect(rateFrom(at(50e6))).toEqual({ low: 25e6, high: 100e6 });
  const nothing = rateFrom([]);
  expect(nothing.high / nothing.low).toBeGreaterThanOrEqual(10);
  // What is over at once says nothing.
  expect(
    rateFrom([
      { bytes: 1000, durationMs: 1 },
      { bytes: 5e6, durationMs: 0 },
    ]),
  ).toEqual(nothing);
});
