import { useQuery } from '@tanstack/react-query';
import { certificatePath, type Disposal, type DueRow } from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { Check, CircleDashed } from 'lucide-react';
import { useNavigate } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { DataTable } from '../design/data-table.js';
import { day } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { Mark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';

/** What is kept no longer by what was agreed, what is held, and what was destroyed. Nothing goes by itself. */
export function KeepingPage() {
  const navigate = useNavigate();
  const found = useQuery(queries.due());
  if (found.error) return <ProblemNote problem={problemFrom(found.error)} />;
  if (!found.data) return <Loading what="Looking what is due" />;
  const { due, dueTotal, held, disposals } = found.data;
  const open = (row: DueRow) => void navigate(`/archives/${row.archiveId}`);
  const waiting = disposals.find(({ owedOn }) => owedOn.length > 0);
  return (
    <Page
      title="Keeping"
      now={
        dueTotal > 0
          ? `${countOf(dueTotal, 'archive')} ${dueTotal === 1 ? 'is' : 'are'} kept no longer by what was agreed: ask, then keep, hand out or destroy.`
          : waiting
            ? `Connect ${waiting.owedOn.join(' and ')}: a copy there is to be destroyed.`
            : 'Nothing is due. Nothing is ever destroyed by itself.'
      }
      calm={dueTotal === 0 && waiting === undefined}
    >
      <Section
        title="Due"
        aside={<p className="text-soft">{formatCount(dueTotal)}, the longest first</p>}
      >
        <DataTable
          label="Due"
          rows={due}
          columns={dueColumns}
          onOpen={open}
          empty="Nothing is due: every archive is kept by what was agreed, or its visit is open."
        />
      </Section>
      <Section title="Held">
        <DataTable
          label="Held"
          rows={held}
          columns={dueColumns}
          onOpen={open}
          empty="Nobody holds an archive. A hold is set on an archive’s page."
        />
      </Section>
      <Section title="Destroyed">
        <DataTable
          label="Destroyed"
          rows={disposals}
          columns={disposalColumns}
          empty="No archive was destroyed yet."
        />
      </Section>
    </Page>
  );
}

const dueColumns: ColumnDef<DueRow>[] = [
  {
    header: 'Customer',
    accessorKey: 'customerName',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  {
    header: 'Phone',
    accessorKey: 'phone',
    cell: ({ getValue }) => <Serial>{getValue<string>() || 'not given'}</Serial>,
  },
  { header: 'Device', accessorKey: 'deviceName', meta: { words: true } },
  {
    header: 'Ticket',
    accessorKey: 'ticketNumber',
    cell: ({ getValue }) => <Serial>{getValue<string>()}</Serial>,
  },
  {
    header: 'Due',
    accessorFn: ({ dueAt }) => dueAt ?? '',
    cell: ({ row: { original } }) => (original.dueAt ? day(original.dueAt) : 'not due'),
  },
  {
    header: 'Last backup',
    accessorKey: 'takenAt',
    cell: ({ getValue }) => day(getValue<string>()),
  },
  {
    header: 'Size',
    accessorKey: 'storedBytes',
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
  { header: 'Lies on', accessorKey: 'rackName', meta: { words: true } },
];

const disposalColumns: ColumnDef<Disposal>[] = [
  { header: 'Number', accessorKey: 'number', meta: { number: true } },
  {
    header: 'Device',
    accessorKey: 'deviceName',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  {
    header: 'Customer',
    accessorFn: ({ customerName }) => customerName || 'name let go',
    meta: { words: true },
  },
  {
    header: 'Ticket',
    accessorKey: 'ticketNumber',
    cell: ({ getValue }) => <Serial>{getValue<string>()}</Serial>,
  },
  {
    header: 'Decided',
    accessorFn: ({ decidedAt, decidedBy }) => `${day(decidedAt)}, ${decidedBy}`,
  },
  {
    header: 'Copies',
    accessorFn: ({ doneAt, owedOn }) => (doneAt ? 'gone' : `owed on ${owedOn.join(', ')}`),
    cell: ({ row: { original } }) =>
      original.doneAt ? (
        <Mark icon={<Check />} tone="plain">
          {countOf(original.copies, 'copy', 'copies')} gone, {day(original.doneAt)}
        </Mark>
      ) : (
        <Mark icon={<CircleDashed />} tone="plain">
          Owed on {original.owedOn.join(', ')}
        </Mark>
      ),
  },
  {
    header: 'Certificate',
    enableSorting: false,
    accessorKey: 'id',
    cell: ({ row: { original } }) => (
      <a
        className="font-semibold underline"
        href={certificatePath(original.id)}
        target="_blank"
        rel="noreferrer"
      >
        {original.doneAt ? `Certificate ${original.number}` : 'As far as it is'}
      </a>
    ),
  },
];
