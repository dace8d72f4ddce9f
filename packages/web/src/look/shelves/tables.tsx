import type { ColumnDef } from '@tanstack/react-table';
import type { ShelfRow } from '@bright-cellar/contract';
import { formatBytes, formatDuration } from '@bright-cellar/core';
import { dateTime } from '../../design/dates.js';
import { TakeInHand } from '../basket.js';
import { LookPicture } from '../bytes.js';
import { column, Facts, ShelfTable, type Row } from './shelf-table.js';
import type { Shown } from './use-shelf.js';

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
    <Facts
      label="Contact"
      title={name || 'Nobody named'}
      facts={facts}
      foot={
        <TakeInHand id={id} pick={{ of: 'row', shelf: 'contacts', row: contact.row }}>
          Take it in hand
        </TakeInHand>
      }
    >
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
    </Facts>
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
