import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { HORIZON_DAYS, LEAST_DAYS, whenFull, type RoomOfDay } from './forecast.js';

const GB = 1e9;
/** Day after day, what each takes. */
function history(free: number, taken: readonly number[]): RoomOfDay[] {
  let now = free;
  return [{ day: 0, free }, ...taken.map((bytes, i) => ({ day: i + 1, free: (now -= bytes) }))];
}

describe('when a rack will be full', () => {
  test('the same every day is known to the day', () => {
    const days = history(
      100 * GB,
      Array.from({ length: 10 }, () => 5 * GB),
    );
    expect(whenFull(days, 20 * GB)).toEqual({ early: 6, late: 6 });
    expect(whenFull(days, 60 * GB)).toEqual({ early: 0, late: 0 });
  });

  test('too little is known for a forecast, and nothing is forecast where nothing is taken', () => {
    const few = Array.from({ length: LEAST_DAYS - 1 }, () => GB);
    expect(whenFull([], 0)).toBeNull();
    expect(whenFull(history(100 * GB, few), 0)).toBeNull();
    expect(whenFull(history(100 * GB, [...few, GB]), 0)).not.toBeNull();
    expect(
      whenFull(
        history(
          100 * GB,
          Array.from({ length: 20 }, () => 0),
        ),
        0,
      ),
    ).toBeNull();
    expect(
      whenFull(
        history(
          100 * GB,
          Array.from({ length: 20 }, () => -GB),
        ),
        0,
      ),
    ).toBeNull();
  });

  test('days on which nobody looked are counted', () => {
    const days = [0, 1, 2, 5, 6, 9, 10].map((day) => ({ day, free: (100 - day * 5) * GB }));
    expect(whenFull(days, 0)).toEqual({ early: 10, late: 10 });
  });

  test('the more it varies the wider the range, and it holds what the mean says', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 8 }), { minLength: LEAST_DAYS, maxLength: 60 }),
        fc.integer({ min: 1, max: 400 }),
        (gigabytes, left) => {
          const taken = gigabytes.map((n) => n * GB);
          const total = taken.reduce((sum, n) => sum + n, 0);
          const days = history(left * GB + total, taken);
          const found = whenFull(days, 0);
          const even = (left * GB) / (total / taken.length);
          if (!found) {
            expect(even).toBeGreaterThan(HORIZON_DAYS);
            return;
          }
          expect(found.early).toBeLessThanOrEqual(Math.ceil(even));
          expect(found.late ?? Infinity).toBeGreaterThanOrEqual(Math.floor(even));
        },
      ),
    );
  });

  test('four of five racks are full within their range', () => {
    // A linear congruential generator: the same walks in every run.
    let seed = 4680;
    const random = () => (seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31) / 2 ** 31;
    const day = () => (random() < 0.3 ? 0 : random() * 20 * GB);
    let within = 0;
    const shops = 400;
    for (let shop = 0; shop < shops; shop++) {
      const days = history(1500 * GB, Array.from({ length: 60 }, day));
      const found = whenFull(days, 0);
      let left = days.at(-1)?.free ?? 0;
      let n = 0;
      for (; left > 0; n++) left -= day();
      if (found && n >= found.early && n <= (found.late ?? Infinity)) within += 1;
    }
    expect(within / shops).toBeGreaterThan(0.74);
    expect(within / shops).toBeLessThan(0.9);
  });
});
