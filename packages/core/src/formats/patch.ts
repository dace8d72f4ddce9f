import type { Field } from '../records/fields.js';
import { plainNumber, type Contact } from '../records/contact.js';
import type { CalendarEvent } from '../records/event.js';
import type { Note } from '../records/note.js';
import type { Records } from '../records/records.js';
import type { Task } from '../records/task.js';
import { asRead, contentLines, contentText, type ContentLine } from './content-lines.js';
import { oldText } from './define.js';
import { icalendar } from './icalendar.js';
import { journal } from './journal.js';
import { markdown, memo } from './notes.js';
import { oldCalendar } from './old-calendar.js';
import { oldTaskList } from './old-task-list.js';
import { oldVcard } from './old-vcard.js';
import { taskList } from './task-list.js';
import { directoryCard, vcard, writeCards } from './vcard.js';

/** What becomes of one record in a file; `record` null: it goes. */
export interface RecordChange<T> {
  /** Which of them it is, in the order in which they are parsed; null: one more, beside them (calendars only). */
  at: number | null;
  record: T | null;
  fields: readonly Field[];
}

/**
 * A file of records in which some fields are others, and all else is as it was, also what nobody here knows: parameters,
 * extensions, the order. @returns null where no record is left in it
 */
export function patchedRecords(
  mediaType: string,
  contents: Uint8Array,
  path: string,
  changes: readonly RecordChange<unknown>[],
): Uint8Array | null {
  const patched = patches[mediaType];
  if (!patched) throw new Error('no such format');
  return patched(contents, path, changes);
}

type Patch = (
  contents: Uint8Array,
  path: string,
  changes: readonly RecordChange<unknown>[],
) => Uint8Array | null;

const propertiesOf: Partial<Record<Field, readonly string[]>> = {
  name: ['N', 'FN', 'SUMMARY'],
  numbers: ['TEL'],
  emails: ['EMAIL'],
  addresses: ['ADR'],
  birthday: ['BDAY'],
  organisation: ['ORG'],
  note: ['NOTE', 'DESCRIPTION'],
  picture: ['PHOTO'],
  place: ['LOCATION'],
  // Exceptions are told in the zone of its start, and old alarms as moments.
  time: ['DTSTART', 'DTEND', 'DURATION', 'RRULE', 'RDATE', 'EXDATE', 'DALARM', 'AALARM'],
  due: ['DUE', 'DTSTART', 'RRULE', 'DALARM', 'AALARM'],
  done: ['STATUS', 'COMPLETED', 'PERCENT-COMPLETE'],
  priority: ['PRIORITY'],
  words: ['SUMMARY', 'DESCRIPTION'],
  recurrence: ['RRULE', 'RDATE', 'EXDATE'],
  alarms: ['VALARM', 'DALARM', 'AALARM'],
};

/** Those of many values that are still there stay as they were written; the others come behind them. */
function patchedComponent(
  old: readonly ContentLine[],
  fresh: readonly ContentLine[],
  fields: readonly Field[],
  keyOf: (line: ContentLine) => string | null,
): ContentLine[] {
  const names = new Set(fields.flatMap((field) => propertiesOf[field] ?? []));
  const ofFields = fresh.filter(({ name }) => names.has(name));
  const wanted = new Set(ofFields.map(keyOf).filter((key) => key !== null));
  const kept = old.filter((line) => {
    if (!names.has(line.name)) return true;
    const key = keyOf(line);
    return key !== null && wanted.has(key);
  });
  const there = new Set(kept.filter(({ name }) => names.has(name)).map(keyOf));
  const came = ofFields.filter((line) => !there.has(keyOf(line)) || keyOf(line) === null);
  return [...kept, ...came];
}

const versionOf = (card: readonly ContentLine[]): string =>
  card
    .find(({ name }) => name === 'VERSION')
    ?.raw.split(':')[1]
    ?.trim() ?? '';

function freshCard(contact: Contact, version: string): ContentLine[] {
  const written =
    version === '2.1'
      ? oldVcard.write({ kind: 'contacts', contacts: [contact] }, '')
      : writeCards([contact], version === '3.0' ? '3.0' : '4.0');
  return contentLines(oldText(written))[0]?.inner ?? [];
}

/** Two lines of a card that say the same number, mail or address. */
function cardKey({ name, raw }: ContentLine): string | null {
  if (!['TEL', 'EMAIL', 'ADR'].includes(name)) return null;
  const card = new TextEncoder().encode(`BEGIN:VCARD\r\nVERSION:3.0\r\n${raw}END:VCARD\r\n`);
  const [one] = vcard.parse(card, '').contacts;
  const [number, mail, address] = [one?.numbers[0], one?.emails[0], one?.addresses[0]];
  return number === undefined
    ? (mail?.toLowerCase() ?? address ?? null)
    : plainNumber(number) || number;
}

const patchedCards: Patch = (contents, _, changes) => {
  const cards = contentLines(oldText(contents)).filter(({ name }) => name === 'VCARD');
  const byPlace = new Map(changes.map((change) => [change.at, change]));
  const left = cards.flatMap((card, at) => {
    const change = byPlace.get(at);
    if (!change) return [card];
    if (change.record === null) return [];
    const old = card.inner ?? [];
    const fresh = freshCard(change.record as Contact, versionOf(old));
    return [{ ...card, inner: patchedComponent(old, fresh, change.fields, cardKey) }];
  });
  return left.length === 0 ? null : asRead(contentText(left), contents);
};

/** How one record of a kind is written into a calendar. @param isOld of version 1.0 */
type WriteOne = (record: unknown, isOld: boolean) => Uint8Array;

const writeEvent: WriteOne = (record, isOld) =>
  (isOld ? oldCalendar : icalendar).write(
    { kind: 'events', events: [record as CalendarEvent] },
    '',
  );
const writeTask: WriteOne = (record, isOld) =>
  (isOld ? oldTaskList : taskList).write({ kind: 'tasks', tasks: [record as Task] }, '');
const writeNote: WriteOne = (record) =>
  journal.write({ kind: 'notes', notes: [record as Note] }, '');

const linesIn = (calendar: Uint8Array): ContentLine[] =>
  contentLines(oldText(calendar))[0]?.inner ?? [];

const isMark = ({ name }: ContentLine): boolean => name === 'UID';

const tzidOf = ({ inner }: ContentLine): string =>
  inner?.find(({ name }) => name === 'TZID')?.raw.trim() ?? '';

/** @param entry the component whose records they are: all others stay */
const patchedCalendars =
  (entry: string, write: WriteOne): Patch =>
  (contents, _, changes) => {
    const calendars = contentLines(oldText(contents));
    const byPlace = new Map(changes.map((change) => [change.at, change]));
    let at = 0;
    let left = 0;
    const more = changes.flatMap(({ at: place, record }) => (place === null ? [record] : []));
    const all = calendars.map((calendar, nth) => {
      const inner = calendar.inner ?? [];
      const isOld = versionOf(inner) === '1.0';
      const zones = new Map<string, ContentLine>();
      const parts = inner.flatMap((part) => {
        if (part.name !== entry) return [part];
        const change = byPlace.get(at++);
        if (change?.record === null) return [];
        left += 1;
        if (!change) return [part];
        const fresh = linesIn(write(change.record, isOld));
        for (const zone of fresh.filter(({ name }) => name === 'VTIMEZONE'))
          zones.set(tzidOf(zone), zone);
        const written = fresh.find(({ name }) => name === entry)?.inner ?? [];
        const patched = patchedComponent(part.inner ?? [], written, change.fields, () => null);
        // Who has no mark, and is given one, has it from now on.
        const mark = patched.some(isMark) ? [] : written.filter(isMark);
        return [{ ...part, inner: [...mark, ...patched] }];
      });
      for (const record of nth === 0 ? more : []) {
        const fresh = linesIn(write(record, isOld));
        for (const part of fresh) {
          if (part.name === 'VTIMEZONE') zones.set(tzidOf(part), part);
          else if (part.name === entry) parts.push(part);
        }
        left += 1;
      }
      for (const part of parts) if (part.name === 'VTIMEZONE') zones.delete(tzidOf(part));
      const first = parts.findIndex(({ name }) => name === entry);
      // What a zone is stands before what happens in it.
      return { ...calendar, inner: parts.toSpliced(Math.max(0, first), 0, ...zones.values()) };
    });
    return left === 0 ? null : asRead(contentText(all), contents);
  };

/** One note is one file, and has nothing but its words. */
const rewritten =
  (write: (records: Extract<Records, { kind: 'notes' }>, path: string) => Uint8Array): Patch =>
  (_, path, [change]) =>
    change?.record ? write({ kind: 'notes', notes: [change.record as Note] }, path) : null;

const patches: Readonly<Record<string, Patch>> = {
  [vcard.mediaType]: patchedCards,
  [directoryCard.mediaType]: patchedCards,
  [oldVcard.mediaType]: patchedCards,
  [icalendar.mediaType]: patchedCalendars('VEVENT', writeEvent),
  [oldCalendar.mediaType]: patchedCalendars('VEVENT', writeEvent),
  [taskList.mediaType]: patchedCalendars('VTODO', writeTask),
  [oldTaskList.mediaType]: patchedCalendars('VTODO', writeTask),
  [journal.mediaType]: patchedCalendars('VJOURNAL', writeNote),
  [markdown.mediaType]: rewritten((records, path) => markdown.write(records, path)),
  [memo.mediaType]: rewritten((records, path) => memo.write(records, path)),
};
