import type { MergedKind, MergedRecords } from './fields.js';
import { icalendar } from '../formats/icalendar.js';
import { journal, writeJournal } from '../formats/journal.js';
import { taskList } from '../formats/task-list.js';
import { vcard, writeCards } from '../formats/vcard.js';

/** How address books and calendars keep each kind, and what an entry of it is called in them. */
export const bookFormats: Readonly<Record<MergedKind, { mediaType: string; component: string }>> = {
  contacts: { mediaType: vcard.mediaType, component: 'VCARD' },
  events: { mediaType: icalendar.mediaType, component: 'VEVENT' },
  tasks: { mediaType: taskList.mediaType, component: 'VTODO' },
  notes: { mediaType: journal.mediaType, component: 'VJOURNAL' },
};

/**
 * A new file of an address book or a calendar: one thing, with what stands for some of its occurrences.
 * @param uid what it is told from all others by where it says nothing itself
 */
export const newBookFile = <Kind extends MergedKind>(
  kind: Kind,
  records: readonly MergedRecords[Kind][],
  uid: string,
): Uint8Array => writers[kind](records, uid);

type Writer<Kind extends MergedKind> = (
  records: readonly MergedRecords[Kind][],
  uid: string,
) => Uint8Array;

const marked = <T extends { uid: string }>(records: readonly T[], uid: string): T[] =>
  records.map((one) => (one.uid === '' ? { ...one, uid } : one));

const writers: { readonly [Kind in MergedKind]: Writer<Kind> } = {
  contacts: (contacts, uid) => writeCards(contacts, '3.0', [uid]),
  events: (events, uid) => icalendar.write({ kind: 'events', events: marked(events, uid) }, ''),
  tasks: (tasks, uid) => taskList.write({ kind: 'tasks', tasks: marked(tasks, uid) }, ''),
  notes: (notes, uid) => writeJournal(notes, [uid]),
};
