import type { ColumnDef } from '@tanstack/react-table';
import { routes, type LookCall, type LookContact } from '@bright-cellar/contract';
import { formatDuration } from '@bright-cellar/core';
import { call } from '../api/call.js';
import { dateTime } from '../design/dates.js';
import { LookTable } from './look-table.js';

const contactColumns: ColumnDef<LookContact>[] = [
  {
    id: 'name',
    header: 'Name',
    enableSorting: false,
    cell: ({ row }) => row.original.name || 'Nobody named',
  },
  {
    id: 'numbers',
    header: 'Numbers',
    enableSorting: false,
    cell: ({ row }) => <span className="font-mono">{row.original.numbers.join(', ')}</span>,
    meta: { words: true },
  },
];

/** Whom the customer knows. */
export function LookContacts({ id }: { id: string }) {
  return (
    <LookTable
      id={id}
      name="Contacts"
      label="Name or number"
      columns={contactColumns}
      page={(text, from) => call(routes.lookContacts, { params: { id }, body: { text, from } })}
    />
  );
}

const callKindNames: Record<LookCall['kind'], string> = {
  incoming: 'They called',
  outgoing: 'The owner called',
  missed: 'Missed',
};

const callColumns: ColumnDef<LookCall>[] = [
  {
    id: 'at',
    header: 'When',
    enableSorting: false,
    cell: ({ row }) => dateTime(row.original.at),
  },
  {
    id: 'name',
    header: 'With whom',
    enableSorting: false,
    cell: ({ row }) => row.original.name,
    meta: { words: true },
  },
  {
    id: 'kind',
    header: 'Which way',
    enableSorting: false,
    cell: ({ row }) => callKindNames[row.original.kind],
  },
  {
    id: 'seconds',
    header: 'How long',
    enableSorting: false,
    cell: ({ row }) =>
      row.original.kind === 'missed' ? '–' : formatDuration(row.original.seconds * 1000),
    meta: { number: true },
  },
];

/** Who called whom, the newest first. */
export function LookCalls({ id }: { id: string }) {
  return (
    <LookTable
      id={id}
      name="Call log"
      label="Name or number"
      columns={callColumns}
      page={(text, from) => call(routes.lookCalls, { params: { id }, body: { text, from } })}
    />
  );
}
