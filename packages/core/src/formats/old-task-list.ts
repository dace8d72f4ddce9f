import type { Task } from '../records/task.js';
import type { RecordFormat } from './define.js';
import { oldAlarms, stampOf, words } from './old-calendar.js';
import { oldRule } from './old-rule.js';
import { oldFile } from './old-text.js';
import { taskList } from './task-list.js';

/** What is to be done, as keyboard handsets write it: versit's vCalendar 1.0 (1996), VTODO, in ISO 8859-1. */
export const oldTaskList: RecordFormat<'tasks'> = {
  mediaType: 'text/vnd.bright-cellar.old-tasks',
  kind: 'tasks',
  parse: (contents, path) => taskList.parse(contents, path),
  write({ tasks }) {
    const lines = tasks.flatMap(linesOfTask);
    return oldFile(['BEGIN:VCALENDAR', 'VERSION:1.0', ...lines, 'END:VCALENDAR']);
  },
};

function linesOfTask({ uid, title, notes, due, done, priority, rule, alarms }: Task): string[] {
  const old = rule === null ? null : oldRule(rule);
  const stamp = due && stampOf(due, old !== null);
  return [
    'BEGIN:VTODO',
    ...words('UID', uid),
    ...(stamp === null ? [] : [`DUE:${stamp}`]),
    ...(old === null ? [] : [`RRULE:${old}`]),
    ...words('SUMMARY', title),
    ...words('DESCRIPTION', notes),
    ...(priority > 0 ? [`PRIORITY:${priority}`] : []),
    `STATUS:${done ? 'COMPLETED' : 'NEEDS ACTION'}`,
    ...(stamp === null ? [] : oldAlarms(stamp, alarms, title)),
    'END:VTODO',
  ];
}
