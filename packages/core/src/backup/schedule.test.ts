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

const utc = { zone: 'Etc/UTC' };
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
    expect(nextDue(weekly, on('2026-11-18T10:00:00'), { zone: 'Etc/GMT-1' })).toEqual(
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

test('quiet hours within a day, over midnight, and of no length', () => {
  const at = (from: number, to: number, time: string) =>
    isQuiet({ ...weekly, quiet: { from, to } }, on(`2026-11-25T${time}:00`), utc);
  expect(['08:59', '09:00', '11:59', '12:00'].map((t) => at(540, 720, t))).toEqual([
    ...[false, true, true, false],
  ]);
  expect(['08:59', '09:00', '11:59', '12:00'].map((t) => at(720, 540, t))).toEqual([
    ...[true, false, false, true],
  ]);
  expect(['08:59', '09:00', '09:01'].map((t) => at(540, 540, t))).toEqual([false, false, false]);
  expect(isQuiet(weekly, on('2026-11-25T09:00:00'), utc)).toBe(false);
});

test('a schedule counts from when it began or was last served, whichever is later', () => {
  const state = (began: string, lastDone: string | null, now: string) =>
    scheduleState(
      weekly,
      { began: on(began), lastDone: lastDone === null ? null : on(lastDone), now: on(now) },
      utc,
    );
  const due = on('2026-11-23T13:00:00');
  const early = '2026-11-01T00:00:00';
  expect(state('2026-11-20T00:00:00', null, '2026-11-23T13:00:00')).toEqual({ state: 'due', due });
  expect(state('2026-11-20T00:00:00', early, '2026-11-23T12:59:59')).toEqual({
    ...{ state: 'waiting', due },
  });
  // To the millisecond: a day after it was due it is missed.
  expect(state(early, '2026-11-20T00:00:00', '2026-11-24T13:00:00').state).toBe('due');
  expect(state(early, '2026-11-20T00:00:00', '2026-11-24T13:00:01').state).toBe('missed');
  const connect = { ...weekly, rule: 'on-connect' as const };
  const facts = { began: due, lastDone: null, now: due };
  expect(scheduleState(connect, facts, utc)).toEqual({ state: 'waiting', due: null });
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
      // Not in the night: there are minutes in which no clock stands on the day it is changed.
      fc.integer({ min: 4 * 60, max: 1439 }),
      fc.constantFrom('weekly' as const, 'fortnightly' as const),
      fc.constantFrom(...zones),
      (since, weekday, at, rule, zone) => {
        const due = nextDue({ ...weekly, weekday, at, rule }, since, { zone }) ?? new Date(0);
        expect(onTheWall(due, zone)).toBe(`${weekday} ${at}`);
        expect(due > since).toBe(true);
        // A day on which the clock is changed has an hour more or less.
        const days = (due.getTime() - since.getTime()) / 86_400_000;
        expect(days).toBeGreaterThan(rule === 'weekly' ? 0 : 7 - 1 / 24);
        expect(days).toBeLessThanOrEqual(rule === 'weekly' ? 7 + 1 / 24 : 14 + 1 / 24);
      },
    ),
    { numRuns: 1000 },
  );
});

const zones = ['Etc/UTC', 'Europe/London', 'America/New_York', 'Australia/Lord_Howe'];

/** What a clock at that place shows: the weekday and the minute of the day. */
function onTheWall(at: Date, timeZone: string): string {
  const parts = new Intl.DateTimeFormat('en-GB', {
    ...{ timeZone, weekday: 'short', hour: '2-digit', minute: '2-digit', hourCycle: 'h23' },
  }).formatToParts(at);
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? '';
  const weekday = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'].indexOf(part('weekday'));
  return `${weekday} ${Number(part('hour')) * 60 + Number(part('minute'))}`;
}

test('keeps its hour over the end of summer time, and so do quiet hours', () => {
  const there = { zone: 'Europe/London' };
  // The clock went back on Sunday, 25 Oct 2026.
  expect(nextDue(weekly, on('2026-10-21T10:00:00'), there)).toEqual(on('2026-10-26T13:00:00'));
  expect(nextDue(weekly, on('2026-10-14T10:00:00'), there)).toEqual(on('2026-10-19T12:00:00'));
  const night = { ...weekly, quiet: { from: 22 * 60, to: 6 * 60 } };
  expect(isQuiet(night, on('2026-10-20T05:30:00'), there)).toBe(false);
  expect(isQuiet(night, on('2026-10-27T05:30:00'), there)).toBe(true);
});

describe('what was missed', () => {
  const began = on('2026-11-01T00:00:00');
  const start = (now: string, catchUp: boolean) =>
    mayStart(
      { ...weekly, catchUp },
      {
        began,
        lastDone: on('2026-11-20T00:00:00'),
        now: on(now),
        connection: 'cable',
        changed: true,
      },
      utc,
    );

  test('is caught up on any day where that is wanted', () => {
    // Due on Monday 23 at 13:00; missed since the 24th.
    expect(start('2026-11-26T09:00:00', true)).toBe(true);
    expect(start('2026-11-22T09:00:00', true)).toBe(false);
  });

  test('waits for its own day otherwise, and starts at its minute', () => {
    expect(start('2026-11-26T09:00:00', false)).toBe(false);
    expect(start('2026-11-30T12:59:59', false)).toBe(false);
    expect(start('2026-11-30T13:00:00', false)).toBe(true);
    expect(start('2026-11-30T20:00:00', false)).toBe(true);
    expect(start('2026-12-01T13:00:01', false)).toBe(false);
  });
});
