import { createHash } from 'node:crypto';
import { Failure, syncedKinds } from '@bright-cellar/core';
import { listOf } from '@bright-cellar/core/crossing';
import {
  bookFormats,
  newBookFile,
  type MergedKind,
  type MergedRecords,
} from '@bright-cellar/core/merge';
import {
  contentLines,
  contentText,
  ContactsTable,
  EventsTable,
  oldText,
  parseRecords,
  tableText,
  TasksTable,
  type ContentLine,
  type RecordsTable,
} from '@bright-cellar/core/formats';
import { organiserFileNames } from '@bright-cellar/contract';
import type { Partner, PartnerCollection, PartnerResource } from './partner.js';

type Kind = PartnerCollection['kind'];

/** What a customer brought as files: changed in memory, and taken along again as files. */
export interface FilesPartner extends Partner {
  /** One file of a kind as it is now; null where there is none. */
  file(kind: Kind): { name: string; contents: Uint8Array } | null;
}

const names: Readonly<Record<Kind, string>> = {
  contacts: 'Their contacts',
  events: 'Their calendar',
  tasks: 'Their tasks',
  notes: 'Their memos',
};
const books: readonly PartnerCollection[] = syncedKinds.map((kind) => ({
  ...{ id: kind, name: names[kind], kind },
}));
/** Entries of a calendar, by what they are. */
const entries = new Map(
  syncedKinds
    .filter((kind) => kind !== 'contacts')
    .map((kind) => [bookFormats[kind].component, kind]),
);

/**
 * @param text vCard and iCalendar files, one after the other; or one table of contacts, of a calendar or of tasks
 * @throws Failure `input-not-valid` where nobody can read it, or it is neither
 */
export function filesPartner(text: string): FilesPartner {
  const partner = /^(?:BEGIN:VCARD|BEGIN:VCALENDAR)/im.test(text) ? null : tableIn(text);
  if (partner) return partner;
  const held: Held = new Map();
  for (const [n, component] of componentsIn(text).entries()) {
    for (const [kind, of] of byKind(component)) {
      const contents = new TextEncoder().encode(contentText([of]).replaceAll('\n', '\r\n'));
      held.set(`${kind}/${n}`, { kind, contents });
    }
  }
  if (held.size === 0) throw unreadable();
  return heldFiles(held);
}

type Held = Map<string, { kind: Kind; contents: Uint8Array }>;

/** Files that are in memory only; none to begin with where nothing is said. */
export function heldFiles(held: Held = new Map()): FilesPartner {
  const of = (kind: Kind) => [...held.entries()].filter(([, one]) => one.kind === kind);
  const resourceOf = (id: string): PartnerResource | null => {
    const one = held.get(id);
    return one ? { id, tag: tagOf(one.contents), contents: one.contents } : null;
  };
  const mustBeAsRead = ({ id, tag }: Pick<PartnerResource, 'id' | 'tag'>) => {
    const one = held.get(id);
    if (one && tagOf(one.contents) !== tag) throw new Failure('changed-meanwhile');
    return one;
  };
  return {
    // All, also where only one was brought: what the device has of the others goes into new files.
    collections: async () => [...books],
    resources: async ({ kind }) => of(kind).flatMap(([id]) => resourceOf(id) ?? []),
    resource: async (_, id) => resourceOf(id),
    async create({ kind }, name, contents) {
      held.set(`${kind}/${name}`, { kind, contents });
      return `${kind}/${name}`;
    },
    async replace(resource, contents) {
      const one = mustBeAsRead(resource);
      if (!one) throw new Failure('changed-meanwhile');
      held.set(resource.id, { kind: one.kind, contents });
    },
    async remove(resource) {
      mustBeAsRead(resource);
      held.delete(resource.id);
    },
    file(kind) {
      const all = of(kind).map(([, { contents }]) => contents);
      if (all.length === 0) return null;
      return { name: organiserFileNames[kind], contents: Buffer.concat(all) };
    },
  };
}

/** A table, by what its columns are. */
function tableIn(text: string): FilesPartner | null {
  const table = tableText(text);
  const contacts = ContactsTable.read(table);
  if (contacts) return tablePartner('contacts', 'contacts.csv', contacts);
  const events = EventsTable.read(table);
  if (events) return tablePartner('events', 'calendar.csv', events);
  const tasks = TasksTable.read(table);
  return tasks && tablePartner('tasks', 'tasks.csv', tasks);
}

/** What stands in a table, each a file of its own while it is here; saved, it is that table again. */
function tablePartner<Kind extends 'contacts' | 'events' | 'tasks'>(
  kind: Kind,
  name: string,
  table: RecordsTable<MergedRecords[Kind]>,
): FilesPartner {
  const held: Held = new Map();
  const rowsOf = new Map<string, TableRows<Kind>>();
  for (const [uid, rows] of together(kind, table.rows())) {
    const records = rows.map(({ record }) => record);
    rowsOf.set(`${kind}/${uid}`, rows);
    held.set(`${kind}/${uid}`, { kind, contents: newBookFile(kind, records, uid) });
  }
  const files = heldFiles(held);
  return {
    ...files,
    file(wanted) {
      if (wanted !== kind) return files.file(wanted);
      const rows = [...held]
        .filter(([, one]) => one.kind === kind)
        .flatMap(([id, { contents }]) => {
          const before = rowsOf.get(id) ?? [];
          return recordsIn(kind, contents).map((record) => ({
            row: before.find((one) => occurrence(one.record) === occurrence(record))?.row ?? null,
            record,
          }));
        });
      return { name, contents: new TextEncoder().encode(table.write(rows)) };
    },
  };
}

type TableRows<Kind extends MergedKind> = ReturnType<RecordsTable<MergedRecords[Kind]>['rows']>;

/** Which occurrence something stands for, where it stands for one. */
const occurrence = (record: object): unknown => ('instead' in record ? record.instead : null);

/** Rows by what they are about: what stands for an occurrence of something belongs to it. */
function together<Kind extends MergedKind>(
  kind: Kind,
  rows: TableRows<Kind>,
): Map<string, TableRows<Kind>> {
  const all = new Map<string, TableRows<Kind>>();
  for (const one of rows) {
    const own = kind === 'events' && 'uid' in one.record ? one.record.uid : '';
    const uid = own === '' ? `row ${one.row}` : own;
    all.set(uid, [...(all.get(uid) ?? []), one]);
  }
  return all;
}

function recordsIn<Kind extends MergedKind>(
  kind: Kind,
  contents: Uint8Array,
): MergedRecords[Kind][] {
  const records = parseRecords(bookFormats[kind].mediaType, contents, '');
  return records.kind === kind ? (listOf(records) as MergedRecords[Kind][]) : [];
}

/** A calendar by what is in it, each with what is said of the whole. */
function* byKind(component: ContentLine): Generator<[Kind, ContentLine]> {
  if (component.name === 'VCARD') yield ['contacts', component];
  if (component.name !== 'VCALENDAR') return;
  const inner = component.inner ?? [];
  for (const kind of entries.values()) {
    const own = inner.filter(({ name }) => (entries.get(name) ?? kind) === kind);
    if (own.some(({ name }) => entries.has(name))) yield [kind, { ...component, inner: own }];
  }
}

function componentsIn(text: string) {
  try {
    return contentLines(oldText(new TextEncoder().encode(text))).filter(
      ({ inner }) => inner !== null,
    );
  } catch (error) {
    throw unreadable(error);
  }
}

const unreadable = (cause?: unknown) =>
  new Failure(
    'input-not-valid',
    {
      what: 'That is no file of contacts (vCard), of a calendar (iCalendar), or a table that says who somebody is, what begins when, or what is to be done.',
      next: 'Choose another; most programs export them as .vcf, .csv and .ics.',
    },
    { cause },
  );

const tagOf = (contents: Uint8Array): string => createHash('sha256').update(contents).digest('hex');
