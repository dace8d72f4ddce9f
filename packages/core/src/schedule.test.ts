import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  isQuiet,
  mayStart,
  nextDue,
  restsUntil,
  scheduleState,
  type Schedule,
} from './schedule.js';

const utc = { offsetMinutes: 0 };
/** Mondays at 13:00. */
const weekly: Schedule = {
  rule: 'weekly',
  weekday: 1,
  at: 13 * 60,
  quiet: null,
  catchUp: true,
  overNetwork: false,
};
const on = (text: string) => new Date(`${text}Z`);
// 23 Nov 2026 is a Monday.
const facts = {
  began: on('2026-11-01T00:00:00'),
  lastDone: on('2026-11-18T10:00:00'),
  connection: 'cable' as const,
  changed: true,
};

describe('a regular backup', () => {
  test('is due on its day and hour, in shop time', () => {
    expect(nextDue(weekly, on('2026-11-18T10:00:00'), utc)).toEqual(on('2026-11-23T13:00:00'));
    expect(nextDue(weekly, on('2026-11-23T12:59:00'), utc)).toEqual(on('2026-11-23T13:00:00'));
    expect(nextDue(weekly, on('2026-11-23T13:00:00'), utc)).toEqual(on('2026-11-30T13:00:00'));
    expect(nextDue(weekly, on('2026-11-18T10:00:00'), { offsetMinutes: 60 })).toEqual(
      on('2026-11-23T12:00:00'),
    );
    const fortnightly = { ...weekly, rule: 'fortnightly' as const };
    expect(nextDue(fortnightly, on('2026-11-18T10:00:00'), utc)).toEqual(on('2026-11-30T13:00:00'));
  });

  test('waits, is due, and was missed after a day', () => {
    const at = (now: string) => scheduleState(weekly, { ...facts, now: on(now) }, utc).state;
    expect(at('2026-11-23T12:00:00')).toBe('waiting');
    expect(at('2026-11-23T14:00:00')).toBe('due');
    expect(at('2026-11-25T14:00:00')).toBe('missed');
  });

  test('that was missed is caught up with, or waits for its next day', () => {
    const may = (schedule: Schedule, now: string) =>
      mayStart(schedule, { ...facts, now: on(now) }, utc);
    expect(may(weekly, '2026-11-25T14:00:00')).toBe(true);
    const strict = { ...weekly, catchUp: false };
    expect(may(strict, '2026-11-25T14:00:00')).toBe(false);
    expect(may(strict, '2026-11-30T13:30:00')).toBe(true);
  });

  test('starts on connect only when something changed, and never over the network unless that is wanted', () => {
    const connect = { ...weekly, rule: 'on-connect' as const };
    const now = on('2026-11-25T14:00:00');
    expect(mayStart(connect, { ...facts, now }, utc)).toBe(true);
    expect(mayStart(connect, { ...facts, now, changed: false }, utc)).toBe(false);
    expect(mayStart(connect, { ...facts, now, connection: 'network' }, utc)).toBe(false);
    const over = { ...connect, overNetwork: true };
    expect(mayStart(over, { ...facts, now, connection: 'network' }, utc)).toBe(true);
  });

  test('never starts in quiet hours, also when they run over midnight', () => {
    const quiet = { ...weekly, quiet: { from: 22 * 60, to: 6 * 60 } };
    for (const [time, is] of [
      ['21:59', false],
      ['22:00', true],
      ['03:00', true],
      ['06:00', false],
    ] as const) {
      expect(isQuiet(quiet, on(`2026-11-25T${time}:00`), utc)).toBe(is);
    }
    expect(mayStart(quiet, { ...facts, now: on('2026-11-25T03:00:00') }, utc)).toBe(false);
  });
});

test('after a try that failed nothing starts by itself for an hour', () => {
  const failed = on('2026-11-25T13:00:00');
  expect(restsUntil(failed, on('2026-11-25T13:59:59'))).toEqual(on('2026-11-25T14:00:00'));
  expect(restsUntil(failed, on('2026-11-25T14:00:00'))).toBeNull();
  expect(restsUntil(null, failed)).toBeNull();
});

test('whenever it was last taken, the next is on its weekday, later, and within its weeks', () => {
  fc.assert(
    fc.property(
      fc.date({
        min: on('2026-01-01T00:00:00'),
        max: on('2027-01-01T00:00:00'),
        noInvalidDate: true,
      }),
      fc.integer({ min: 0, max: 6 }),
      fc.integer({ min: 0, max: 1439 }),
      fc.constantFrom('weekly' as const, 'fortnightly' as const),
      fc.integer({ min: -720, max: 720 }),
      (since, weekday, at, rule, offsetMinutes) => {
        const due = nextDue({ ...weekly, weekday, at, rule }, since, { offsetMinutes });
        const shop = new Date((due?.getTime() ?? 0) + offsetMinutes * 60_000);
        expect(shop.getUTCDay()).toBe(weekday);
        expect(shop.getUTCHours() * 60 + shop.getUTCMinutes()).toBe(at);
        const days = ((due?.getTime() ?? 0) - since.getTime()) / 86_400_000;
        expect(days).toBeGreaterThan(rule === 'weekly' ? 0 : 7);
        expect(days).toBeLessThanOrEqual(rule === 'weekly' ? 7 : 14);
      },
    ),
  );
});
