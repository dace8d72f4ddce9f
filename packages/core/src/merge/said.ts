import type { Field } from '../records/fields.js';
import type { Contact } from '../records/contact.js';
import type { CalendarEvent, WallTime } from '../records/event.js';
import type { Note } from '../records/note.js';
import type { Task } from '../records/task.js';
import type { MergedKind, MergedRecords } from './fields.js';

/** One part of a record, in words for whoever looks at both sides. */
export interface SaidPart {
  field: Field;
  words: string;
}

const timeRead = (time: WallTime | null): string =>
  time === null
    ? ''
    : `${time.wall.replace('T', ' ').replace(/:00$/, '')}${time.zone ? ` ${time.zone}` : ''}`;

const ringsAt = (alarms: readonly number[]): string =>
  alarms.map((minutes) => `${minutes} min before`).join(', ');

const ofContact = (contact: Contact): SaidPart[] => [
  { field: 'name', words: contact.name },
  { field: 'numbers', words: contact.numbers.join(', ') },
  { field: 'emails', words: contact.emails.join(', ') },
  { field: 'addresses', words: contact.addresses.join('; ') },
  { field: 'birthday', words: contact.birthday },
  { field: 'organisation', words: contact.organisation },
  { field: 'note', words: contact.note },
  { field: 'picture', words: contact.picture ? 'a picture' : '' },
];

const ofEvent = (event: CalendarEvent): SaidPart[] => [
  { field: 'name', words: event.title },
  {
    field: 'time',
    words: [timeRead(event.start), timeRead(event.end)].filter(Boolean).join(' to '),
  },
  { field: 'place', words: event.place },
  {
    field: 'recurrence',
    words: [
      event.rule ?? '',
      ...event.also.map((day) => `also ${day}`),
      ...event.without.map((day) => `not ${day}`),
    ]
      .filter(Boolean)
      .join(', '),
  },
  { field: 'alarms', words: ringsAt(event.alarms) },
  { field: 'note', words: event.notes },
];

const ofTask = (task: Task): SaidPart[] => [
  { field: 'name', words: task.title },
  { field: 'due', words: timeRead(task.due) },
  { field: 'done', words: task.done ? 'done' : '' },
  { field: 'priority', words: task.priority > 0 ? `${task.priority} of 9` : '' },
  { field: 'recurrence', words: task.rule ?? '' },
  { field: 'alarms', words: ringsAt(task.alarms) },
  { field: 'note', words: task.notes },
];

const saidOfKind: { [Kind in MergedKind]: (record: MergedRecords[Kind]) => SaidPart[] } = {
  contacts: ofContact,
  events: ofEvent,
  tasks: ofTask,
  notes: ({ text }: Note) => [{ field: 'words', words: text }],
};

/** The parts of a record that say something. */
export const saidOf = <Kind extends MergedKind>(
  kind: Kind,
  record: MergedRecords[Kind],
): SaidPart[] => saidOfKind[kind](record).filter(({ words }) => words !== '');
