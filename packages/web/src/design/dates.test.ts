import fc from 'fast-check';
import { expect, test } from 'vitest';
import { clockTime, minuteOf } from './dates.js';

test('a time of day reads back as what was typed; what is none is refused', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 1439 }), (minute) => {
      expect(minuteOf(clockTime(minute))).toBe(minute);
    }),
  );
  for (const wrong of ['', '24:00', '7', '12:60', '1:5', 'noon', '12:30 pm'])
    expect(minuteOf(wrong)).toBeNull();
  expect(minuteOf(' 7:05 ')).toBe(425);
});
