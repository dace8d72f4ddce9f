import type { ShelfId, ShelfRow } from '@bright-cellar/contract';
import { daysWanted, type TakeOutChoices } from '@bright-cellar/core';
import { mediaTypes, writeRecords } from '@bright-cellar/core/formats';
import { plainNumber, type CalendarEvent, type Task } from '@bright-cellar/core/look';
import {
  alarmsFile,
  bookmarksFile,
  callsFile,
  contactsFile,
  healthFile,
  homeScreenFile,
  notesPage,
  Paths,
  isVideoName,
  photographName,
  safeName,
  titleOfConversation,
  visitsFile,
  writeConversation,
  type ToldConversation,
} from '@bright-cellar/core/take-out';
import type { Chosen, Hand } from '../basket.js';
import type { Contents, Shelves } from '../shelves/index.js';

/** A file of a package: letters that were written, an item of the backup as it is, or what is made while it is read. */
export type Output = { path: string; modified: Date } & (
  | { text: () => string }
  | { item: number }
  | { made: () => AsyncIterable<Uint8Array> }
);

/** What outputs are made from. */
export interface Source {
  shelves: Shelves;
  contents: Contents;
  /** The item that lies at a path of the device. */
  itemAt(path: string): number | undefined;
  /** Null for what is never taken out. */
  fileOf(item: number): { path: string; modified: number } | null;
  /** A conversation as pages to print; null where nobody can make them. @param items what came along, by its path in the package */
  pages:
    | ((
        told: ToldConversation,
        zone: string,
        items: ReadonlyMap<string, number>,
      ) => AsyncIterable<Uint8Array>)
    | null;
}

/** Everything that is in hand, as files in open formats. Paths are safe, and none is there twice. */
export function* outputsOf(hand: Hand, source: Source, choices: TakeOutChoices): Generator<Output> {
  const zone = choices.times === 'utc' ? 'UTC' : source.contents.zone;
  const out: Writing = {
    source,
    choices,
    zone,
    paths: new Paths(),
    at: new Date(source.contents.takenAt),
    isOfDays: daysWanted(choices, zone),
  };
  for (const chosen of hand.conversations) yield* conversationFiles(out, chosen);
  for (const [shelf, numbers] of hand.rows) {
    if (numbers.size > 0) yield* writers[shelf](out, numbers);
  }
  for (const item of hand.files) yield* original(out, 'files', item);
}

interface Writing {
  source: Source;
  choices: TakeOutChoices;
  zone: string;
  paths: Paths;
  /** When the backup was taken: of files that are written here. */
  at: Date;
  /** Whether a moment (ms since 1970) is of the days that were asked for. */
  isOfDays: (at: number) => boolean;
}

function* conversationFiles(out: Writing, { conversation, months }: Chosen): Generator<Output> {
  const { people, sources, said } = conversation;
  const folder = out.paths.free(`conversations/${safeName(titleOfConversation({ people }))}`);
  const media = new Paths();
  const files: Output[] = [];
  const items = new Map<string, number>();
  const chosen = said.filter(
    ({ at }) =>
      out.isOfDays(at) && (months === null || months.has(new Date(at).toISOString().slice(0, 7))),
  );
  const told = chosen.map(({ at, from, text, source, attachment }) => {
    if (attachment === null) return { at: new Date(at), from, text, source, with: null };
    const name = attachment.slice(attachment.lastIndexOf('/') + 1);
    const { withMedia } = out.choices;
    const isWanted =
      withMedia === 'all' || (withMedia === 'without-videos' && !isVideoName(attachment));
    const item = isWanted ? out.source.itemAt(attachment) : undefined;
    const file = item === undefined ? null : out.source.fileOf(item);
    const path = file ? media.free(`media/${safeName(name)}`) : null;
    if (path !== null && file && item !== undefined) {
      files.push({ path: `${folder}/${path}`, modified: new Date(file.modified), item });
      items.set(path, item);
    }
    return { at: new Date(at), from, text, source, with: { name, path } };
  });
  const whole = { people, sources, said: told };
  const { conversations: format } = out.choices;
  const { pages } = out.source;
  if (format !== 'pdf') {
    for (const { name, text } of writeConversation(whole, format, out.zone))
      yield { path: `${folder}/${name}`, modified: out.at, text };
  } else if (pages) {
    const made = () => pages(whole, out.zone, items);
    yield { path: `${folder}/conversation.pdf`, modified: out.at, made };
  }
  yield* files;
}

/** An item as it is, at the end of its own path below a folder. */
function* original(out: Writing, folder: string, item: number): Generator<Output> {
  const file = out.source.fileOf(item);
  if (!file) return;
  const names = file.path.split('/').map(safeName).join('/');
  yield { path: out.paths.free(`${folder}/${names}`), modified: new Date(file.modified), item };
}

type Writer = (out: Writing, numbers: ReadonlySet<number>) => Iterable<Output>;

/** Rows of a shelf as one file. */
const asFile =
  <Id extends ShelfId>(
    shelf: Id,
    write: (rows: ShelfRow<Id>[], out: Writing) => { path: string; text: string },
  ): Writer =>
  (out, numbers) => {
    const { path, text } = write(out.source.shelves.numbered(shelf, numbers), out);
    return [{ path: out.paths.free(path), modified: out.at, text: () => text }];
  };

const originals = (shelf: 'voice-notes' | 'music' | 'documents'): Writer =>
  function* (out, numbers) {
    for (const item of numbers) yield* original(out, shelf, item);
  };

/** Photographs and videos, called and laid out as it was chosen. */
const named = (shelf: 'photographs' | 'videos'): Writer =>
  function* (out, numbers) {
    const rows = out.source.shelves
      .numbered(shelf, numbers)
      .toSorted((a, b) => (a.at < b.at ? -1 : 1));
    const { pattern, folders } = out.choices;
    for (const [n, row] of rows.entries()) {
      const file = out.source.fileOf(row.item);
      if (!file) continue;
      const at = new Date(row.at);
      const album = 'album' in row ? row.album : '';
      const place = 'place' in row ? row.place : null;
      const name = photographName(pattern, { path: file.path, at, album, place }, n + 1, out.zone);
      const below =
        folders === 'month'
          ? `${row.at.slice(0, 7)}/`
          : folders === 'album' && album
            ? `${safeName(album)}/`
            : '';
      yield { path: out.paths.free(`${shelf}/${below}${name}`), modified: at, item: row.item };
    }
  };

/** How each shelf is written. One line adds one. */
const writers: Record<ShelfId, Writer> = {
  contacts: asFile('contacts', (rows, { choices, source }) => {
    const all = source.contents.records('contacts').flatMap(({ records }) => records.contacts);
    return {
      path: choices.contacts === 'csv' ? 'contacts.csv' : 'contacts.vcf',
      text: contactsFile(
        rows.flatMap(({ card }) => all[card] ?? []),
        choices.contacts,
      ),
    };
  }),
  calls: asFile('calls', (rows, { zone, isOfDays }) => ({
    path: 'calls.csv',
    text: callsFile(
      rows
        .map((row) => ({ ...row, at: new Date(row.at) }))
        .filter(({ at }) => isOfDays(at.getTime())),
      zone,
    ),
  })),
  calendar: asFile('calendar', (rows, { source }) => {
    const all = source.contents.records('events').flatMap(({ records }) => records.events);
    const events = [...new Set(rows.map(({ event }) => event))].flatMap((n) => all[n] ?? []);
    // With a series goes what stands in the place of some of it.
    const uids = new Set(events.map(({ uid }) => uid).filter((uid) => uid !== ''));
    const whole = all.filter((event) => events.includes(event) || uids.has(event.uid));
    const bytes = writeRecords(
      mediaTypes.icalendar,
      { kind: 'events', events: whole.map(withUid) },
      '',
    );
    return { path: 'calendar.ics', text: new TextDecoder().decode(bytes) };
  }),
  tasks: asFile('tasks', (rows, { source }) => {
    const all = source.contents.records('tasks').flatMap(({ records }) => records.tasks);
    const tasks = rows.flatMap(({ task }) => all[task] ?? []).map(markedTask);
    const bytes = writeRecords(mediaTypes.taskList, { kind: 'tasks', tasks }, '');
    return { path: 'tasks.ics', text: new TextDecoder().decode(bytes) };
  }),
  *notes(out, numbers) {
    const rows = out.source.shelves.numbered('notes', numbers);
    if (out.choices.notes === 'html') {
      const text = notesPage(
        rows.map(({ text: words, at }) => ({ text: words, at: new Date(at) })),
        out.zone,
      );
      yield { path: out.paths.free('notes.html'), modified: out.at, text: () => text };
      return;
    }
    for (const { title, text, at } of rows) {
      const path = out.paths.free(`notes/${safeName(title)}.md`);
      yield { path, modified: new Date(at), text: () => text };
    }
  },
  photographs: named('photographs'),
  videos: named('videos'),
  'voice-notes': originals('voice-notes'),
  music: originals('music'),
  documents: originals('documents'),
  bookmarks: asFile('bookmarks', (rows) => ({ path: 'bookmarks.html', text: bookmarksFile(rows) })),
  visits: asFile('visits', (rows, { zone, isOfDays }) => ({
    path: 'pages-visited.csv',
    text: visitsFile(
      rows
        .map(({ at, page }) => ({ at: new Date(at), page }))
        .filter(({ at }) => isOfDays(at.getTime())),
      zone,
    ),
  })),
  alarms: asFile('alarms', (rows) => ({ path: 'alarms.csv', text: alarmsFile(rows) })),
  health: asFile('health', (rows, { source, zone }) => {
    const wanted = new Set(rows.map(({ what, unit }) => `${what}\n${unit}`));
    const all = source.contents
      .records('measurements')
      .flatMap(({ records }) => records.measurements)
      .filter(({ what, unit }) => wanted.has(`${what}\n${unit}`));
    return { path: 'health.csv', text: healthFile(all, zone) };
  }),
  *applications(out, numbers) {
    const names = new Set(
      out.source.shelves.numbered('applications', numbers).map(({ name }) => name),
    );
    const { contents } = out.source;
    for (const item of contents.files('applications')) {
      const { path } = contents.file(item);
      if (names.has(path.split('/')[1] ?? '')) yield* original(out, 'files', item);
    }
  },
  screens: asFile('screens', (rows) => ({ path: 'home-screen.txt', text: homeScreenFile(rows) })),
};

/** Wanted by RFC 5545: where the device gave none, what the entry says of itself. */
const markedTask = (task: Task, n: number): Task =>
  task.uid === '' ? { ...task, uid: `task-${n}@bright-cellar.invalid` } : task;
const withUid = (event: CalendarEvent, n: number): CalendarEvent =>
  event.uid === ''
    ? { ...event, uid: `${plainNumber(event.start.wall)}-${n}@bright-cellar.invalid` }
    : event;
