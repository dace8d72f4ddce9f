import type { Records, RecordsKind } from './records.js';
import { plainNumber, type Contact } from './contact.js';
import type { CalendarEvent, WallTime } from './event.js';
import type { Message } from './message.js';
import type { Note } from './note.js';
import { titleOf } from './note.js';
import type { Task } from './task.js';
import { instantOf } from './wall-time.js';

/** What a record consists of, as people call it. */
export const fieldNames = {
  name: 'Name',
  numbers: 'Numbers',
  emails: 'Mail addresses',
  addresses: 'Addresses',
  birthday: 'Birthday',
  organisation: 'Organisation',
  note: 'Note',
  picture: 'Picture',
  words: 'Words',
  attachment: 'What came along',
  conversation: 'Conversation',
  place: 'Place',
  time: 'Time',
  zone: 'Time zone',
  'whole-day': 'That it is a whole day',
  recurrence: 'How it recurs',
  alarms: 'When it rings',
  due: 'By when',
  done: 'Whether it is done',
  priority: 'How urgent it is',
  rest: 'Something else',
} as const;
export type Field = keyof typeof fieldNames;
export const fieldIds = Object.keys(fieldNames) as [Field, ...Field[]];

/** One record of any kind. */
export type AnyRecord = { [Kind in RecordsKind]: RecordOf<Kind> }[RecordsKind];
type ListOf<Kind extends RecordsKind> = Omit<Extract<Records, { kind: Kind }>, 'kind'>;
type RecordOf<Kind extends RecordsKind> = ListOf<Kind>[keyof ListOf<Kind>] extends (infer One)[]
  ? One
  : never;

/** The records themselves. */
export const listOf = (records: Records): readonly AnyRecord[] =>
  (Object.values(records) as unknown[]).find((value): value is AnyRecord[] =>
    Array.isArray(value),
  ) ?? [];

/** Some records of a kind. @param list all of that kind */
export const recordsOf = (kind: RecordsKind, list: readonly AnyRecord[]): Records =>
  ({ kind, [kind]: [...list] }) as unknown as Records;

/** Which fields two versions of a record differ in: values that compare as JSON does. */
type FieldsOf<T> = (record: T) => Partial<Record<Field, unknown>>;

const contact: FieldsOf<Contact> = ({ picture, ...fields }) => ({
  ...fields,
  picture: picture?.base64 ?? null,
});
const message: FieldsOf<Message> = ({ text, attachment, thread }) => ({
  words: text,
  attachment: attachment === null ? null : fileName(attachment),
  conversation: thread,
});
const fileName = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

const event: FieldsOf<CalendarEvent> = ({ start, end, rule, also, without, instead, ...more }) => ({
  name: more.title,
  place: more.place,
  note: more.notes,
  'whole-day': !start.wall.includes('T'),
  time: [start, end].map((time) => time && timeOf(time, rule !== null || also.length > 0)),
  zone: [start.zone, end?.zone],
  recurrence: [rule, also.map(ofDay), without.map(ofDay), instead],
  alarms: more.alarms,
});

/** A whole day begins at midnight, told or not. */
const ofDay = (wall: string): string => wall.replace('T00:00:00', '');

/** What happens once is at its moment, in whatever zone that is told; what recurs keeps its time on the wall. */
const timeOf = ({ wall, zone }: WallTime, recurs: boolean): string =>
  zone === null || recurs ? ofDay(wall) : new Date(instantOf({ wall, zone }, zone)).toISOString();

const task: FieldsOf<Task> = ({ due, rule, ...more }) => ({
  name: more.title,
  note: more.notes,
  due: due && timeOf(due, rule !== null),
  'whole-day': due !== null && !due.wall.includes('T'),
  zone: [due?.zone],
  done: more.done,
  priority: more.priority,
  recurrence: [rule],
  alarms: more.alarms,
});

const note: FieldsOf<Note> = ({ text }) => ({ words: text });

const fieldsOf: Partial<Record<RecordsKind, FieldsOf<never>>> = {
  contacts: contact,
  messages: message,
  events: event,
  tasks: task,
  notes: note,
};

function fields(kind: RecordsKind, record: AnyRecord): Partial<Record<Field, unknown>> {
  const of = fieldsOf[kind] as FieldsOf<AnyRecord> | undefined;
  return of ? of(record) : { rest: record };
}

/** In what a record that arrived differs from the one that was meant; nothing where it is as it was. */
export function changedFields(kind: RecordsKind, meant: AnyRecord, arrived: AnyRecord): Field[] {
  const now = fields(kind, arrived);
  const was = Object.entries(fields(kind, meant)) as [Field, unknown][];
  return was.flatMap(([field, value]) =>
    JSON.stringify(value) === JSON.stringify(now[field]) ? [] : [field],
  );
}

/** A record that does not arrive as it was, field by field. All of it is the customer's. */
export interface Example {
  /** What it is called: a name, a title, a moment. */
  title: string;
  /** What is lost has nothing in the place of what it becomes. */
  fields: { field: Field; was: string; becomes: string }[];
}

const EXAMPLE_SIGNS = 300;
const words = (value: unknown): string => inWords(value).slice(0, EXAMPLE_SIGNS);
function inWords(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string' || typeof value === 'number') return String(value);
  if (Array.isArray(value))
    return [...new Set(value.map(inWords))].filter((one) => one !== '').join(', ');
  return Object.entries(value)
    .flatMap(([name, one]) => (inWords(one) === '' ? [] : [`${name} ${inWords(one)}`]))
    .join(', ');
}

/** A record beside what a device will read of it, in the fields in which they differ. */
export function exampleOf(
  kind: RecordsKind,
  changed: readonly Field[],
  meant: AnyRecord,
  arrived: AnyRecord | undefined,
): Example {
  const was = fields(kind, meant);
  const now = arrived ? fields(kind, arrived) : {};
  return {
    title: titleOfRecord(kind, meant),
    fields: changed.map((field) => ({
      ...{ field, was: words(was[field]), becomes: words(now[field]) },
    })),
  };
}

function titleOfRecord(kind: RecordsKind, record: AnyRecord): string {
  const title = 'title' in record ? record.title : identityOf(kind, record);
  if (title) return title.slice(0, EXAMPLE_SIGNS);
  return momentOf(record)?.toISOString() ?? '';
}

/** What is the same for two records that say the same, wherever they lie and in whatever order their numbers stand. */
export function sameKey(kind: RecordsKind, record: AnyRecord): string {
  if (kind === 'messages') {
    const { at, from, text } = record as Message;
    return JSON.stringify([at.getTime(), plainNumber(from) || from, text]);
  }
  if (kind === 'contacts') {
    const { numbers, emails, ...more } = record as Contact;
    return JSON.stringify([more, numbers.map(plainNumber).toSorted(), emails.toSorted()]);
  }
  if (kind === 'threads') {
    const { members } = record as { members: string[] };
    return JSON.stringify(members.map((one) => plainNumber(one) || one).toSorted());
  }
  return JSON.stringify(record);
}

/** Who or what a record is about: two that have it in common and are not the same are two versions. Null where nothing says it. */
export function identityOf(kind: RecordsKind, record: AnyRecord): string | null {
  if (kind === 'contacts') return (record as Contact).name || null;
  if (kind === 'notes') return titleOf(record as Note) || null;
  if (kind === 'events') {
    const { uid, instead } = record as CalendarEvent;
    return uid === '' ? null : `${uid} ${instead ?? ''}`;
  }
  if (kind === 'tasks') return (record as Task).uid || (record as Task).title || null;
  return null;
}

/** When something happened, where that says into which file it goes. */
export function momentOf(record: AnyRecord): Date | null {
  return 'at' in record && record.at instanceof Date ? record.at : null;
}
