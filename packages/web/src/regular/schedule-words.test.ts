import { type Schedule, rackIdSchema } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import { scheduleWords, takingWords } from './schedule-words.js';

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
      videos: false,
      clock: 'utc' as const,
      since: null,
      until: null,
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
