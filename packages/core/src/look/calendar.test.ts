import { expect, test } from 'vitest';
import type { CalendarEvent } from '../records/event.js';
import { occurrencesOf } from './calendar.js';

const ZONE = 'Atlantic/Azores';
const event = (given: Partial<CalendarEvent>): CalendarEvent => ({
  ...{ uid: 'a', title: '', place: '', notes: '', end: null, rule: null, instead: null },
  ...{ start: { wall: '2026-03-27T09:00:00', zone: ZONE }, also: [], without: [], alarms: [] },
  ...given,
});
const until = Date.parse('2026-12-31T00:00:00Z');
const told = (...events: CalendarEvent[]) =>
  occurrencesOf(events, until, ZONE).map(({ at }) => new Date(at).toISOString().slice(0, 16));

test('what recurs keeps its time on the wall when the clocks change', () => {
  expect(told(event({ rule: 'FREQ=DAILY;COUNT=4' }))).toEqual([
    ...['2026-03-27T10:00', '2026-03-28T10:00', '2026-03-29T09:00', '2026-03-30T09:00'],
  ]);
});

test('an end that is a moment is one there, too', () => {
  // 09:00 UTC is nine o’clock there on the 30th, and still counts.
  const rule = 'FREQ=DAILY;UNTIL=20260330T090000Z';
  expect(told(event({ rule }))).toHaveLength(4);
});

test('what was taken out does not happen, and what was moved happens where it was moved to', () => {
  const moved = event({
    instead: '2026-03-28T09:00:00',
    start: { wall: '2026-03-28T20:30:00', zone: ZONE },
  });
  const all = event({ rule: 'FREQ=DAILY;COUNT=4', without: ['2026-03-29T09:00:00'] });
  expect(told(all, moved)).toEqual(['2026-03-27T10:00', '2026-03-28T21:30', '2026-03-30T09:00']);
});

test('what happens at times that are told one by one happens then, too, and once', () => {
  const also = ['2026-03-28T09:00:00', '2026-04-02T18:00:00', '2099-01-01T00:00:00'];
  expect(told(event({ rule: 'FREQ=DAILY;COUNT=2', also }))).toEqual([
    ...['2026-03-27T10:00', '2026-03-28T10:00', '2026-04-02T18:00'],
  ]);
  expect(told(event({ also: ['2026-04-02T18:00:00'] }))).toEqual([
    ...['2026-03-27T10:00', '2026-04-02T18:00'],
  ]);
});

test('whole days are days wherever one is, and last as long as they say', () => {
  const days = event({
    start: { wall: '2026-03-28', zone: null },
    end: { wall: '2026-03-30', zone: null },
  });
  const [one] = occurrencesOf([days], until, ZONE);
  expect(one).toMatchObject({ isWholeDay: true, at: Date.parse('2026-03-28T01:00:00Z') });
  // Two days, one of which has only twenty-three hours.
  expect((one?.until ?? 0) - (one?.at ?? 0)).toBe(47 * 3_600_000);
});

test('what recurs for ever is told until the day that is asked for, and not for ever', () => {
  expect(told(event({ rule: 'FREQ=MONTHLY' }))).toHaveLength(10);
  expect(told(event({ rule: 'FREQ=SECONDLY' }))).toHaveLength(2000);
});
