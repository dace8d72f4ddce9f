import type { ColumnDef } from '@tanstack/react-table';
import type { ShelfId, ShelfPart, ShelfRow } from '@bright-cellar/contract';
import { formatBytes, formatDuration } from '@bright-cellar/core';
import { useState, type ReactNode } from 'react';
import { DataTable } from '../../design/data-table.js';
import { dateTime } from '../../design/dates.js';
import { Loading } from '../../design/loading.js';
import { TakeInHand } from '../basket.js';
import { LookPicture } from '../bytes.js';
import { useShelf, type Shown } from './use-shelf.js';

type Row<Id extends ShelfId> = ShelfPart<Id>['rows'][number];

/** A shelf as a ledger. */
function ShelfTable<Id extends ShelfId>({
  shelf,
  label,
  shown,
  columns,
  detail,
}: {
  shelf: Id;
  label: string;
  shown: Shown;
  columns: ColumnDef<Row<Id>>[];
  /** All that is known of a row, over the ledger. */
  detail?: (row: Row<Id>) => ReactNode;
}) {
  const [open, setOpen] = useState<Row<Id> | null>(null);
  const read = useShelf(shelf, shown);
  if (!read) return <Loading what="Listing them" />;
  return (
    <>
      {open && detail?.(open)}
      <DataTable
        label={label}
        rows={read.rows}
        columns={columns}
        {...(detail ? { onOpen: setOpen } : {})}
        empty="Nothing of that is in it."
        paged={{
          ...{ sort: '', order: 'asc', onSort: () => undefined },
          ...{ total: read.total, hasMore: read.hasMore, onMore: read.onMore },
        }}
      />
    </>
  );
}

function column<Of>(
  id: string,
  header: string,
  cell: (row: Of) => ReactNode,
  meta?: { words: true } | { number: true },
): ColumnDef<Of> {
  return {
    ...{ id, header, enableSorting: false, cell: ({ row }) => cell(row.original) },
    ...(meta ? { meta } : {}),
  };
}

const contactColumns: ColumnDef<Row<'contacts'>>[] = [
  column('name', 'Name', ({ name, isTwice }) => (
    <>
      {name || 'Nobody named'}
      {isTwice && <span className="text-small text-soft"> likely twice</span>}
    </>
  )),
  column(
    'numbers',
    'Numbers',
    ({ numbers }) => <span className="font-mono">{numbers.join(', ')}</span>,
    { words: true },
  ),
  column('emails', 'Addresses', ({ emails }) => emails.join(', '), { words: true }),
];

/** Whom the customer knows. */
export const Contacts = (shown: Shown) => (
  <ShelfTable
    shelf="contacts"
    label="Contacts"
    shown={shown}
    columns={contactColumns}
    detail={(contact) => <Card id={shown.id} contact={contact} />}
  />
);

function Card({ id, contact }: { id: string; contact: Row<'contacts'> }) {
  const { name, numbers, emails, addresses, birthday, organisation, note, isTwice } = contact;
  const facts: [string, string][] = [
    ['Numbers', numbers.join(', ')],
    ['E-mail', emails.join(', ')],
    ['Lives at', addresses.join('; ')],
    ['Born', birthday.replace(/^--/, 'every year on ')],
    ['Works at', organisation],
    ['Note', note],
  ];
  return (
    <section aria-label="Contact" className="border border-line bg-surface px-4 py-3">
      <h3 className="text-large">{name || 'Nobody named'}</h3>
      {contact.hasPicture && (
        <LookPicture
          {...{ id, of: 'cards', number: contact.card, pixels: 240 }}
          alt={`Picture of ${name || 'whoever this is'}`}
          className="float-right ml-3 h-28 w-28 border border-line object-cover"
        />
      )}
      {isTwice && (
        <p className="text-soft">Another card has one of these: likely the same person.</p>
      )}
      <dl className="grid grid-cols-[7rem_minmax(0,1fr)] gap-x-3">
        {facts
          .filter(([, words]) => words !== '')
          .map(([what, words]) => (
            <div key={what} className="contents">
              <dt className="text-soft">{what}</dt>
              <dd className="break-words whitespace-pre-wrap">{words}</dd>
            </div>
          ))}
      </dl>
      <span className="mt-2 block">
        <TakeInHand id={id} pick={{ of: 'row', shelf: 'contacts', row: contact.row }}>
          Take it in hand
        </TakeInHand>
      </span>
    </section>
  );
}

const callKindNames: Record<ShelfRow<'calls'>['kind'], string> = {
  incoming: 'They called',
  outgoing: 'The owner called',
  missed: 'Missed',
};
const callColumns: ColumnDef<Row<'calls'>>[] = [
  column('at', 'When', ({ at }) => dateTime(at)),
  column('name', 'With whom', ({ name }) => name, { words: true }),
  column('kind', 'Which way', ({ kind }) => callKindNames[kind]),
  column(
    'seconds',
    'How long',
    ({ kind, seconds }) => (kind === 'missed' ? '–' : formatDuration(seconds * 1000)),
    { number: true },
  ),
];

/** Who called whom, the newest first. */
export const Calls = (shown: Shown) => (
  <ShelfTable shelf="calls" label="Call log" shown={shown} columns={callColumns} />
);

const bookmarkColumns: ColumnDef<Row<'bookmarks'>>[] = [
  column('name', 'Name', ({ name }) => name, { words: true }),
  column('page', 'Page', ({ page }) => page, { words: true }),
];
export const Bookmarks = (shown: Shown) => (
  <ShelfTable shelf="bookmarks" label="Bookmarks" shown={shown} columns={bookmarkColumns} />
);

const visitColumns: ColumnDef<Row<'visits'>>[] = [
  column('at', 'When', ({ at }) => dateTime(at)),
  column('page', 'Page', ({ page }) => page, { words: true }),
];
export const Visits = (shown: Shown) => (
  <ShelfTable shelf="visits" label="Pages visited" shown={shown} columns={visitColumns} />
);

const taskColumns: ColumnDef<Row<'tasks'>>[] = [
  column('title', 'To do', ({ title }) => title, { words: true }),
  column('due', 'By', ({ due, zone }) => byWhen(due, zone)),
  column('done', 'Done', ({ done }) => (done ? 'done' : '')),
  column('priority', 'Priority', ({ priority }) => priorityOf(priority)),
  column('isRepeated', 'Again', ({ isRepeated }) => (isRepeated ? 'yes' : '')),
  column('notes', 'Note', ({ notes }) => notes, { words: true }),
];
/** RFC 5545, section 3.8.1.9. */
const priorityOf = (priority: number) =>
  priority === 0 ? '' : priority < 5 ? 'high' : priority === 5 ? 'middle' : 'low';
const byWhen = (due: string, zone: string | null) =>
  `${due.replace('T', ' ').replace(/:00$/, '')}${zone ? ` ${zone}` : ''}`;
export const Tasks = (shown: Shown) => (
  <ShelfTable shelf="tasks" label="Tasks" shown={shown} columns={taskColumns} />
);

const alarmColumns: ColumnDef<Row<'alarms'>>[] = [
  column('time', 'At', ({ time }) => time),
  column('days', 'On', ({ days }) => days || 'once'),
  column('label', 'For', ({ label }) => label, { words: true }),
];
export const Alarms = (shown: Shown) => (
  <ShelfTable shelf="alarms" label="Alarms" shown={shown} columns={alarmColumns} />
);

const applicationColumns: ColumnDef<Row<'applications'>>[] = [
  column('name', 'Application', ({ name }) => name),
  column('items', 'Files', ({ items }) => items.toLocaleString('en'), { number: true }),
  column('bytes', 'Size', ({ bytes }) => formatBytes(bytes), { number: true }),
];
export const Applications = (shown: Shown) => (
  <ShelfTable
    shelf="applications"
    label="Applications"
    shown={shown}
    columns={applicationColumns}
  />
);
