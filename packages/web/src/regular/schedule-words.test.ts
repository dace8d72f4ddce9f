import { type Schedule, rackIdSchema } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { clockTime, minuteOf, scheduleWords, takingWords } from './schedule-words.js';

const weekly: Schedule = {
  rule: 'weekly',
  weekday: 1,
  at: 13 * 60,
  quiet: null,
  catchUp: true,
  overNetwork: false,
};

describe('a schedule, as somebody would say it', () => {
  test.each<[Partial<Schedule>, string]>([
    [{}, 'Every week, Monday 13:00'],
    [{ rule: 'fortnightly', weekday: 0, at: 5 }, 'Every two weeks, Sunday 00:05'],
    [{ rule: 'on-connect' }, 'Whenever it is connected and has changed'],
    [
      { quiet: { from: 22 * 60, to: 6 * 60 }, overNetwork: true },
      'Every week, Monday 13:00; not 22:00–06:00; also over the network',
    ],
  ])('%o', (change, words) => {
    expect(scheduleWords({ ...weekly, ...change })).toBe(words);
  });

  test('names what is taken', () => {
    expect(takingWords(null)).toBe('Everything, into its archive');
    const style = {
      kind: 'records' as const,
      format: 'csv' as const,
      dates: 'iso' as const,
      named: true,
      media: false,
      append: true,
    };
    expect(
      takingWords({
        rackId: rackIdSchema.parse(crypto.randomUUID()),
        what: { ...style, set: 'calls' },
      }),
    ).toBe('Call log, as CSV');
  });
});

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
