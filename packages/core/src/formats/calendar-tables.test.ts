import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { CalendarEvent, WallTime } from '../records/event.js';
import type { Task } from '../records/task.js';
import { EventsTable } from './events-table.js';
import { tableText, type RecordsTable } from './record-table.js';
import { TasksTable } from './tasks-table.js';

const there = <Of>(table: Of | null | undefined): Of => {
  if (!table) throw new Error('none');
  return table;
};
const events = (text: string) => there(EventsTable.read(tableText(text)));
const tasks = (text: string) => there(TasksTable.read(tableText(text)));
const recordsOf = <Of>(table: RecordsTable<Of>) => table.rows().map(({ record }) => record);

const noEvent: CalendarEvent = {
  ...{ uid: '', title: '', place: '', notes: '', end: null, rule: null, instead: null },
  ...{ start: { wall: '2026-01-01', zone: null }, also: [], without: [], alarms: [] },
};
const noTask: Task = {
  ...{ uid: '', title: '', notes: '', due: null, done: false, priority: 0, rule: null, alarms: [] },
};

describe('a calendar as a table', () => {
  test('a day and a time in cells of their own or in one; a whole day ends with itself', () => {
    const text =
      'Subject,Start date,Start time,End date,End time,Location,Colour\r\n' +
      'Ferry,28.3.2026,9:05,28.3.2026,10:00,Quay,red\r\n' +
      'Fair,2026-04-01,,2026-04-02,,,\r\n';
    const read = events(text);
    expect(recordsOf(read)).toEqual([
      {
        ...{ ...noEvent, title: 'Ferry', place: 'Quay' },
        start: { wall: '2026-03-28T09:05:00', zone: null },
        end: { wall: '2026-03-28T10:00:00', zone: null },
      },
      {
        ...{ ...noEvent, title: 'Fair', start: { wall: '2026-04-01', zone: null } },
        end: { wall: '2026-04-03', zone: null },
      },
    ]);
    expect(read.write(read.rows())).toBe(text);
    const [ferry] = read.rows();
    const moved = there(ferry);
    moved.record.start.wall = '2026-03-28T08:30:00';
    expect(read.write([moved])).toBe(
      'Subject,Start date,Start time,End date,End time,Location,Colour\r\nFerry,2026-03-28,08:30,2026-03-28,10:00,Quay,red\r\n',
    );
  });

  test('a row whose beginning nobody can read stays as it is', () => {
    const text = 'title,start\r\nFerry,03/04/2026\r\nMill,2026-03-28 25:00\r\nFair,2026-03-28\r\n';
    const read = events(text);
    expect(recordsOf(read).map(({ title }) => title)).toEqual(['Fair']);
    expect(read.write([])).toBe('title,start\r\nFerry,03/04/2026\r\nMill,2026-03-28 25:00\r\n');
  });

  test('what a table has no column for gets one; what stands for an occurrence says of what', () => {
    const read = events('title,start\r\nChoir,2026-01-05 19:00\r\n');
    const [choir] = read.rows();
    const { row, record } = there(choir);
    const weekly = { ...record, uid: 'choir', rule: 'FREQ=WEEKLY' };
    const once = { ...noEvent, uid: 'choir', title: 'Choir, elsewhere', place: '=Mill' };
    once.start = { wall: '2026-01-12T20:00:00', zone: null };
    const written = read.write([
      { row, record: weekly },
      { row: null, record: { ...once, instead: '2026-01-12T19:00:00' } },
    ]);
    expect(written.split('\r\n').slice(0, 3)).toEqual([
      'title,start,id,place,repeats,in place of',
      'Choir,2026-01-05 19:00,choir,,FREQ=WEEKLY,',
      `"Choir, elsewhere",2026-01-12 20:00,choir,'=Mill,,2026-01-12 19:00`,
    ]);
    expect(recordsOf(events(written))).toEqual([
      { ...weekly, uid: 'choir' },
      { ...once, instead: '2026-01-12T19:00:00' },
    ]);
  });

  test('what says no beginning or no title is none', () => {
    expect(EventsTable.read(tableText('title,place\r\nFerry,Quay\r\n'))).toBeNull();
    expect(EventsTable.read(tableText('start\r\n2026-01-01\r\n'))).toBeNull();
  });

  const word = fc.stringMatching(/^[A-Za-z+=@][A-Za-z0-9 ]{0,8}[a-z]$/);
  const day = fc
    .integer({ min: 0, max: 20_000 })
    .map((n) => new Date(n * 86_400_000).toISOString().slice(0, 10));
  const clock = fc.integer({ min: 0, max: 86_399 }).map((n) => new Date(n * 1000).toISOString());
  const zone = fc.constantFrom(null, 'UTC', 'Europe/Lisbon');
  const time: fc.Arbitrary<WallTime> = fc.oneof(
    day.map((wall) => ({ wall, zone: null })),
    fc.record({ day, clock, zone }).map((at) => ({
      wall: `${at.day}T${at.clock.slice(11, 19)}`,
      zone: at.zone,
    })),
  );
  const alarms = fc.uniqueArray(fc.integer({ min: 0, max: 9999 }), { maxLength: 2 });
  const rule = fc.constantFrom(null, 'FREQ=WEEKLY;BYDAY=MO,TH');

  test('one that this program wrote comes back as it was meant', () => {
    const event = fc.record({
      ...{ uid: fc.constant(''), title: word, place: word, notes: word, start: time },
      ...{ end: fc.constant(null), rule, instead: fc.constant(null), alarms },
      also: fc.uniqueArray(day, { maxLength: 2 }),
      without: fc.uniqueArray(day, { maxLength: 2 }),
    });
    fc.assert(
      fc.property(fc.array(event, { minLength: 1, maxLength: 4 }), (some) => {
        const none = events('title,start\r\n');
        const written = none.write(some.map((record) => ({ row: null, record })));
        expect(recordsOf(events(written))).toEqual(some);
      }),
      { numRuns: 200 },
    );
  });

  test('so do tasks', () => {
    const task = fc.record({
      ...{ uid: fc.constant(''), title: word, notes: word, done: fc.boolean() },
      due: fc.oneof(fc.constant(null), time),
      priority: fc.integer({ min: 0, max: 9 }),
      ...{ rule, alarms },
    });
    fc.assert(
      fc.property(fc.array(task, { minLength: 1, maxLength: 4 }), (some) => {
        // What is never due neither recurs nor is noticed before.
        const meant = some.map((one) => (one.due ? one : { ...one, rule: null, alarms: [] }));
        const none = tasks('task,done\r\n');
        const written = none.write(meant.map((record) => ({ row: null, record })));
        expect(recordsOf(tasks(written))).toEqual(meant);
      }),
      { numRuns: 200 },
    );
  });
});

test('of a table of tasks only what changed is written', () => {
  const text = 'Task;Due date;Done;Priority;Where\r\nPay;2026-02-01;;1;Mill\r\nCall;;x;;\r\n';
  const read = tasks(text);
  expect(recordsOf(read)).toEqual([
    { ...noTask, title: 'Pay', due: { wall: '2026-02-01', zone: null }, priority: 1 },
    { ...noTask, title: 'Call', done: true },
  ]);
  expect(read.write(read.rows())).toBe(text);
  const [pay, call] = read.rows();
  const written = read.write([
    { row: there(pay).row, record: { ...there(pay).record, done: true, priority: 0 } },
    there(call),
    { row: null, record: { ...noTask, title: 'Sing', notes: 'Alto' } },
  ]);
  expect(written).toBe(
    'Task;Due date;Done;Priority;Where;notes\r\nPay;2026-02-01;yes;;Mill;\r\nCall;;x;;;\r\nSing;;;;;Alto\r\n',
  );
  expect(TasksTable.read(tableText('Task,Where\r\nPay,Mill\r\n'))).toBeNull();
});
