import { createHash } from 'node:crypto';
import { Failure, syncedKinds } from '@bright-cellar/core';
import {
  bookFormats,
  contentLines,
  contentText,
  ContactsTable,
  mediaTypes,
  newBookFile,
  oldText,
  parseRecords,
  type ContentLine,
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
 * @param text vCard and iCalendar files, one after the other; or one table of contacts
 * @throws Failure `input-not-valid` where nobody can read it, or it is neither
 */
export function filesPartner(text: string): FilesPartner {
  const table = /^(?:BEGIN:VCARD|BEGIN:VCALENDAR)/im.test(text) ? null : ContactsTable.read(text);
  if (table) return tablePartner(table);
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

/** Contacts of a table, each a card while they are here; saved, it is that table again. */
function tablePartner(table: ContactsTable): FilesPartner {
  const idOf = (row: number) => `contacts/${row}`;
  const contacts = table.contacts();
  const held: Held = new Map(
    contacts.map((contact, row) => [
      idOf(row),
      { kind: 'contacts', contents: newBookFile('contacts', [contact], String(row)) },
    ]),
  );
  const rowOf = new Map(contacts.map((_, row) => [idOf(row), row]));
  const files = heldFiles(held);
  return {
    ...files,
    file(kind) {
      if (kind !== 'contacts') return files.file(kind);
      const rows = [...held.entries()]
        .filter(([, one]) => one.kind === kind)
        .flatMap(([id, { contents }]) => cardsIn(contents).map((contact) => ({ id, contact })))
        .map(({ id, contact }) => ({ row: rowOf.get(id) ?? null, contact }));
      return { name: 'contacts.csv', contents: new TextEncoder().encode(table.write(rows)) };
    },
  };
}

function cardsIn(contents: Uint8Array) {
  const records = parseRecords(mediaTypes.vcard, contents, '');
  return records.kind === 'contacts' ? records.contacts : [];
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
      what: 'That is no file of contacts (vCard, or a table that says who they are) or of a calendar (iCalendar) that can be read here.',
      next: 'Choose another; most programs export them as .vcf, .csv and .ics.',
    },
    { cause },
  );

const tagOf = (contents: Uint8Array): string => createHash('sha256').update(contents).digest('hex');
