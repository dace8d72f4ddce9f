import type { Field } from '../records/fields.js';
import { plainNumber, type Contact } from '../records/contact.js';
import type { CalendarEvent, WallTime } from '../records/event.js';
import { titleOf, type Note } from '../records/note.js';
import type { Task } from '../records/task.js';
import { instantOf } from '../records/wall-time.js';

/** One of the parts that a record is merged by. */
export interface MergeField<T> {
  field: Field;
  /** What of it compares: two that say the same are the same text. */
  said: (record: T) => string;
  /** Whether two say the same, which is mostly seen without working out what they say. */
  same: (one: T, other: T) => boolean;
  /** A record with this part of another. */
  taken: (onto: T, from: T) => T;
  /** Of a part that has several values, each with what it compares by: they are merged one by one. */
  many?: {
    of: (record: T) => readonly { key: string; value: unknown }[];
    put: (onto: T, values: readonly unknown[]) => T;
  };
}

const words = (text: string): string => text.replaceAll(/\r\n?/g, '\n').trim();

/** A part that is one value, or several that belong together. */
function whole<T>(
  field: Field,
  names: readonly (keyof T)[],
  said: (record: T) => unknown,
): MergeField<T> {
  const text = (record: T): string => {
    const value = said(record);
    return typeof value === 'string' ? words(value) : value === null ? '' : JSON.stringify(value);
  };
  const isAsWritten = (one: T, other: T) =>
    names.every((name) => JSON.stringify(one[name]) === JSON.stringify(other[name]));
  return {
    field,
    said: text,
    same: (one, other) => isAsWritten(one, other) || text(one) === text(other),
    taken: (onto, from) => ({
      ...onto,
      ...Object.fromEntries(names.map((name) => [name, from[name]])),
    }),
  };
}

function several<T, One>(
  field: Field,
  name: keyof T,
  listOf: (record: T) => readonly One[],
  keyOf: (one: One) => string,
): MergeField<T> {
  const keys = (record: T) => [...new Set(listOf(record).map(keyOf))].toSorted();
  const text = (record: T) => (listOf(record).length === 0 ? '' : JSON.stringify(keys(record)));
  return {
    field,
    said: text,
    same: (one, other) =>
      JSON.stringify(one[name]) === JSON.stringify(other[name]) || text(one) === text(other),
    taken: (onto, from) => ({ ...onto, [name]: from[name] }),
    many: {
      of: (record) => listOf(record).map((value) => ({ key: keyOf(value), value })),
      put: (onto, values) => ({ ...onto, [name]: values }),
    },
  };
}

const contactFields: readonly MergeField<Contact>[] = [
  whole('name', ['name'], ({ name }) => name),
  several(
    'numbers',
    'numbers',
    ({ numbers }) => numbers,
    (one) => plainNumber(one) || one,
  ),
  several(
    'emails',
    'emails',
    ({ emails }) => emails,
    (one) => one.trim().toLowerCase(),
  ),
  several('addresses', 'addresses', ({ addresses }) => addresses, words),
  whole('birthday', ['birthday'], ({ birthday }) => birthday),
  whole('organisation', ['organisation'], ({ organisation }) => organisation),
  whole('note', ['note'], ({ note }) => note),
  whole('picture', ['picture'], ({ picture }) => picture?.base64 ?? null),
];

/** What happens once is at its moment, in whatever zone that is told; what recurs keeps its time on the wall. */
function timeOf({ wall, zone }: WallTime, recurs: boolean): unknown {
  if (!wall.includes('T') || zone === null) return wall.replace('T00:00:00', '');
  return recurs ? [wall, zone] : instantOf({ wall, zone }, zone);
}

const eventFields: readonly MergeField<CalendarEvent>[] = [
  whole('name', ['title'], ({ title }) => title),
  whole('place', ['place'], ({ place }) => place),
  whole('note', ['notes'], ({ notes }) => notes),
  whole('time', ['start', 'end'], ({ start, end, rule, also }) => {
    const recurs = rule !== null || also.length > 0;
    return [timeOf(start, recurs), end && timeOf(end, recurs)];
  }),
  // Its exceptions are told in the zone of its start: a rule, and what is left out of it, belong together.
  whole('recurrence', ['rule', 'also', 'without'], ({ rule, also, without }) =>
    rule === null && also.length === 0 ? null : [rule, also.toSorted(), without.toSorted()],
  ),
  several(
    'alarms',
    'alarms',
    ({ alarms }) => alarms,
    (minutes) => String(minutes),
  ),
];

const taskFields: readonly MergeField<Task>[] = [
  whole('name', ['title'], ({ title }) => title),
  whole('note', ['notes'], ({ notes }) => notes),
  whole('due', ['due'], ({ due, rule }) => due && timeOf(due, rule !== null)),
  whole('recurrence', ['rule'], ({ rule }) => rule),
  whole('done', ['done'], ({ done }) => (done ? 'done' : '')),
  whole('priority', ['priority'], ({ priority }) => String(priority || '')),
  several(
    'alarms',
    'alarms',
    ({ alarms }) => alarms,
    (minutes) => String(minutes),
  ),
];

const noteFields: readonly MergeField<Note>[] = [whole('words', ['text'], ({ text }) => text)];

/** What is kept in step: kinds of records, and what each is. */
export interface MergedRecords {
  contacts: Contact;
  events: CalendarEvent;
  tasks: Task;
  notes: Note;
}
export type MergedKind = keyof MergedRecords;
export const mergedKinds = ['contacts', 'events', 'tasks', 'notes'] as const satisfies MergedKind[];

/** How records of a kind are merged, called and told apart. */
export interface MergeRules<T> {
  fields: readonly MergeField<T>[];
  titleOf: (record: T) => string;
  /** Two that have it in common are the same thing on both sides; null where nothing tells. */
  identityOf: (record: T) => string | null;
}

export const mergeRules: { readonly [Kind in MergedKind]: MergeRules<MergedRecords[Kind]> } = {
  contacts: { fields: contactFields, titleOf: ({ name }) => name, identityOf: () => null },
  events: {
    fields: eventFields,
    titleOf: ({ title }) => title,
    identityOf: ({ uid, instead }) => (uid === '' ? null : JSON.stringify([uid, instead])),
  },
  tasks: {
    fields: taskFields,
    titleOf: ({ title }) => title,
    identityOf: ({ uid }) => uid || null,
  },
  notes: { fields: noteFields, titleOf, identityOf: () => null },
};

/** What two that say the same have in common. */
export const allSaid = <T>({ fields }: MergeRules<T>, record: T): string =>
  JSON.stringify(fields.map(({ said }) => said(record)));
