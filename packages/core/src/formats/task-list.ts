import type ICAL from 'ical.js';
import type { Task } from '../records/task.js';
import {
  addAlarms,
  addRule,
  addTime,
  addWords,
  alarmsOf,
  calendarOf,
  entriesOf,
  newEntry,
  ruleOf,
  timesOf,
  wordsOf,
  type Entry,
} from './calendar-entries.js';
import type { RecordFormat } from './define.js';

/** What is to be done, in a calendar (RFC 5545, VTODO). */
export const taskList: RecordFormat<'tasks'> = {
  mediaType: 'text/vnd.bright-cellar.tasks',
  kind: 'tasks',
  parse: (contents) => ({ kind: 'tasks', tasks: entriesOf(contents, 'vtodo').map(taskOf) }),
  write: ({ tasks }) =>
    calendarOf(
      tasks.map(written),
      tasks.map(({ due }) => due),
    ),
};

function taskOf(entry: Entry): Task {
  const due = timesOf(entry, 'due')[0] ?? timesOf(entry, 'dtstart')[0] ?? null;
  const priority = Number(wordsOf(entry, 'priority'));
  const isDone =
    wordsOf(entry, 'status').toUpperCase() === 'COMPLETED' || wordsOf(entry, 'completed') !== '';
  return {
    uid: wordsOf(entry, 'uid'),
    title: wordsOf(entry, 'summary'),
    notes: wordsOf(entry, 'description'),
    due,
    done: isDone,
    priority: Number.isInteger(priority) && priority > 0 && priority < 10 ? priority : 0,
    rule: due && ruleOf(entry),
    alarms: due ? alarmsOf(entry, 'due') : [],
  };
}

function written(task: Task): ICAL.Component {
  const component = newEntry('vtodo', task.uid);
  const { due, rule } = task;
  if (due) {
    // What recurs has a beginning.
    if (rule !== null) addTime(component, 'dtstart', due);
    addTime(component, 'due', due);
    addRule(component, rule);
  }
  addWords(component, 'summary', task.title);
  addWords(component, 'description', task.notes);
  if (task.priority > 0) component.addPropertyWithValue('priority', String(task.priority));
  component.addPropertyWithValue('status', task.done ? 'COMPLETED' : 'NEEDS-ACTION');
  if (due) addAlarms(component, task.alarms, task.title, true);
  return component;
}
