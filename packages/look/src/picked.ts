import type { ShelfId } from '@bright-cellar/contract';
import type { RecordsKind } from '@bright-cellar/core/formats';
import { messageKey, pickKey, type Picked } from '@bright-cellar/core/crossing';
import type { Hand } from './basket.js';
import type { Contents, Shelves } from './shelves/index.js';

/** Conversations of the device itself, not of an application on it. */
const OWN = 'Messages';

/** Shelves of which a row is a file. */
const fileShelves = ['photographs', 'videos', 'voice-notes', 'music', 'documents'] as const;
type FileShelf = (typeof fileShelves)[number];
const isOfFiles = (shelf: ShelfId): shelf is FileShelf =>
  (fileShelves as readonly ShelfId[]).includes(shelf);

/** What is in hand, as it goes onto a device: files by their paths, records by what they say. */
export function pickedOf(hand: Hand, shelves: Shelves, contents: Contents): Picked {
  const picking = new Picking();
  for (const item of hand.files) picking.paths.add(contents.file(item).path);
  for (const { conversation, months } of hand.conversations) {
    for (const { at, isOwn, text, attachment, source } of conversation.said) {
      if (months !== null && !months.has(new Date(at).toISOString().slice(0, 7))) continue;
      if (source !== OWN) {
        picking.inStores += 1;
        continue;
      }
      picking.of('messages').add(messageKey({ at, isOwn, text }));
      if (attachment !== null) picking.paths.add(attachment);
    }
  }
  for (const [shelf, numbers] of hand.rows) {
    if (isOfFiles(shelf)) {
      for (const number of numbers) picking.paths.add(contents.file(number).path);
    } else pickers[shelf](picking, numbers, shelves, contents);
  }
  return picking;
}

class Picking {
  readonly paths = new Set<string>();
  readonly applications = new Set<string>();
  readonly records = new Map<RecordsKind, Set<string>>();
  inStores = 0;

  of(kind: RecordsKind): Set<string> {
    const known = this.records.get(kind) ?? new Set<string>();
    this.records.set(kind, known);
    return known;
  }
}

type Picker = (
  picking: Picking,
  numbers: ReadonlySet<number>,
  shelves: Shelves,
  contents: Contents,
) => void;

/** Which records rows were made of. One line adds one. */
const pickers: Record<Exclude<ShelfId, FileShelf>, Picker> = {
  contacts(picking, numbers, shelves, contents) {
    const all = contents.records('contacts').flatMap(({ records }) => records.contacts);
    for (const { card } of shelves.numbered('contacts', numbers)) {
      const contact = all[card];
      if (contact) picking.of('contacts').add(pickKey('contacts', contact));
    }
  },
  calls(picking, numbers, shelves, contents) {
    const rows = shelves.numbered('calls', numbers).map(({ at, number }) => `${at} ${number}`);
    const wanted = new Set(rows);
    for (const { records } of contents.records('calls')) {
      for (const call of records.calls) {
        if (wanted.has(`${call.at.toISOString()} ${call.number}`))
          picking.of('calls').add(pickKey('calls', call));
      }
    }
  },
  calendar(picking, numbers, shelves, contents) {
    const all = contents.records('events').flatMap(({ records }) => records.events);
    const events = shelves.numbered('calendar', numbers).flatMap(({ event }) => all[event] ?? []);
    // With a series goes what stands in the place of some of it.
    const uids = new Set(events.map(({ uid }) => uid).filter((uid) => uid !== ''));
    for (const event of all) {
      if (events.includes(event) || uids.has(event.uid))
        picking.of('events').add(pickKey('events', event));
    }
  },
  tasks(picking, numbers, shelves, contents) {
    const all = contents.records('tasks').flatMap(({ records }) => records.tasks);
    for (const { task } of shelves.numbered('tasks', numbers)) {
      const one = all[task];
      if (one) picking.of('tasks').add(pickKey('tasks', one));
    }
  },
  notes(picking, numbers, shelves, contents) {
    const wanted = new Set(shelves.numbered('notes', numbers).map(({ text }) => text));
    for (const { records } of contents.records('notes')) {
      for (const note of records.notes) {
        if (wanted.has(note.text)) picking.of('notes').add(pickKey('notes', note));
      }
    }
  },
  alarms(picking, numbers, shelves) {
    for (const alarm of shelves.numbered('alarms', numbers))
      picking.of('alarms').add(pickKey('alarms', alarm));
  },
  bookmarks(picking, numbers, shelves) {
    for (const bookmark of shelves.numbered('bookmarks', numbers))
      picking.of('bookmarks').add(pickKey('bookmarks', bookmark));
  },
  visits(picking, numbers, shelves) {
    for (const { at, page } of shelves.numbered('visits', numbers))
      picking.of('visits').add(pickKey('visits', { at: new Date(at), page }));
  },
  screens(picking, _numbers, _shelves, contents) {
    for (const { file } of contents.records('screens')) picking.paths.add(contents.file(file).path);
  },
  health(picking, numbers, shelves, contents) {
    const rows = shelves.numbered('health', numbers).map(({ what, unit }) => `${what}\n${unit}`);
    const wanted = new Set(rows);
    for (const { records } of contents.records('measurements')) {
      for (const one of records.measurements) {
        if (wanted.has(`${one.what}\n${one.unit}`))
          picking.of('measurements').add(pickKey('measurements', one));
      }
    }
  },
  applications(picking, numbers, shelves) {
    for (const { name } of shelves.numbered('applications', numbers))
      picking.applications.add(name);
  },
};
