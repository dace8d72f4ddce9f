import { expect, test } from 'vitest';
import { mediaTypes, parseRecords, writeRecords } from './index.js';

const read = (...lines: string[]) => {
  const text = ['BEGIN:VCALENDAR', ...lines, 'END:VCALENDAR', ''].join('\r\n');
  const records = parseRecords(mediaTypes.taskList, new TextEncoder().encode(text), 'tasks/1.ics');
  return records.kind === 'tasks' ? records.tasks : [];
};

test('a task is read with when it is due, how urgent it is, how it recurs and when it rings', () => {
  const tasks = read(
    ...['VERSION:2.0', 'BEGIN:VEVENT', 'DTSTART:20260327T090000Z', 'END:VEVENT'],
    ...['BEGIN:VTODO', 'UID:1', 'SUMMARY:Bread\\, and the key', 'PRIORITY:1'],
    ...['DTSTART;VALUE=DATE:20260327', 'DUE;VALUE=DATE:20260327', 'RRULE:FREQ=WEEKLY'],
    ...['BEGIN:VALARM', 'TRIGGER;RELATED=END:-PT15M', 'END:VALARM', 'END:VTODO'],
    ...['BEGIN:VTODO', 'SUMMARY:Gone', 'PRIORITY:99', 'RRULE:FREQ=DAILY'],
    ...['COMPLETED:20260101T000000Z', 'END:VTODO'],
  );
  const none = { uid: '', notes: '', due: null, done: false, priority: 0, rule: null, alarms: [] };
  expect(tasks).toEqual([
    {
      ...{ ...none, uid: '1', title: 'Bread, and the key', priority: 1 },
      ...{ due: { wall: '2026-03-27', zone: null }, rule: 'FREQ=WEEKLY', alarms: [15] },
    },
    // Of what is never due nothing recurs, and nothing is as urgent as that.
    { ...none, title: 'Gone', done: true },
  ]);
});

test('a handset tells a task in its own words, and without a time zone', () => {
  const task = {
    ...{ uid: '7', title: 'Käse', notes: '', done: false, priority: 3, alarms: [60] },
    ...{ due: { wall: '2026-07-01T12:00:00', zone: 'Atlantic/Azores' }, rule: null },
  };
  const bytes = writeRecords(mediaTypes.oldTaskList, { kind: 'tasks', tasks: [task] }, '');
  expect(new TextDecoder('latin1').decode(bytes).split('\r\n')).toEqual([
    ...['BEGIN:VCALENDAR', 'VERSION:1.0', 'BEGIN:VTODO', 'UID:7', 'DUE:20260701T120000Z'],
    ...['SUMMARY;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:K=E4se', 'PRIORITY:3'],
    ...[
      'STATUS:NEEDS ACTION',
      'DALARM;CHARSET=ISO-8859-1;ENCODING=QUOTED-PRINTABLE:20260701T110000Z;;;K=E4se',
      'END:VTODO',
      'END:VCALENDAR',
      '',
    ],
  ]);
});
