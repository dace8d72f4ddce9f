import { useQuery } from '@tanstack/react-query';
import type { ArchiveRow, ArchivesSummary } from '@bright-cellar/contract';
import { askOf, formatBytes, formatCount, type Days } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useNavigate } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { day } from '../design/dates.js';
import { DataTable } from '../design/data-table.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { ProofMark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { usePaged } from '../design/use-paged.js';
import { SavedViews } from './saved-views.js';

/** Everything that is kept. */
export function ArchivesPage() {
  const summary = useQuery(queries.archivesSummary());
  const list = usePaged(queries.archives(), { sort: 'taken', order: 'desc' }, { isKept: true });
  const navigate = useNavigate();
  const error = summary.error ?? list.error;
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!summary.data || !list.rows) return <Loading what="Going down to the cellar" />;
  const now = whatNow(summary.data);
  return (
    <Page title="Archives" now={now.sentence} calm={!now.needs}>
      <div className="flex items-end justify-between gap-6">
        <TextField
          label="Show only"
          placeholder="Customer, device, serial, ticket, rack, notes, spring 2026"
          hint={hintOf(list.text, list.readAs)}
          value={list.text}
          onChange={(e) => list.setText(e.target.value)}
          className="w-96"
        />
        <p className="text-soft">
          {formatCount(summary.data.archives)} archives, {formatBytes(summary.data.storedBytes)} on
          racks
        </p>
      </div>
      <SavedViews ask={list.ask} isUsual={list.isUsual} onShow={list.show} />
      <DataTable
        label="Archives"
        rows={list.rows}
        columns={columns}
        filter={list.text}
        paged={list.paged}
        onOpen={(archive) => void navigate(`/archives/${archive.id}`)}
        empty="Nothing is kept yet. Open a ticket for a device on the bench and take its backup."
      />
    </Page>
  );
}

/** What was understood of what was typed, where that is not just how it stands. */
function hintOf(text: string, readAs: string): string | undefined {
  const read = readAs && `Nothing has all of that. Shown: ${readAs}.`;
  return [read, takenWords(askOf(text, new Date()).taken)].filter(Boolean).join(' ') || undefined;
}

/** What was understood of the days in it; nothing where there were none. */
function takenWords(taken: Days | null): string | undefined {
  if (!taken) return undefined;
  const last = taken.to && new Date(taken.to.getTime() - 1);
  const from = taken.from && `from ${day(taken.from.toISOString())}`;
  return ['Taken', from, last && `until ${day(last.toISOString())}`].filter(Boolean).join(' ');
}

function whatNow({ archives, damaged, unproven }: ArchivesSummary): {
  sentence: string;
  needs: boolean;
} {
  if (damaged)
    return {
      needs: true,
      sentence: `The archive of ${damaged.deviceName} is damaged: take a new backup and erase nothing.`,
    };
  if (unproven > 0)
    return {
      needs: true,
      sentence:
        unproven === 1
          ? 'Prove the one archive that has not been proven.'
          : `Prove the ${formatCount(unproven)} archives that have not been proven.`,
    };
  return {
    needs: false,
    sentence:
      archives > 0
        ? 'Nothing needs you down here. Every archive is proven.'
        : 'Nothing is kept yet.',
  };
}

/** Each by the name that the server sorts it by. */
const columns: ColumnDef<ArchiveRow>[] = [
  {
    header: 'Taken',
    id: 'taken',
    accessorKey: 'takenAt',
    cell: ({ row }) => <span>{day(row.original.takenAt)}</span>,
  },
  {
    header: 'Device',
    id: 'device',
    meta: { words: true },
    accessorFn: (a) => `${a.device.name} ${a.device.familyName} ${a.device.model}`,
    cell: ({ row: { original } }) => (
      <>
        <span className="font-semibold">{original.device.name}</span>, {original.device.model}
      </>
    ),
  },
  {
    header: 'Serial',
    id: 'serial',
    accessorFn: (a) => a.device.serial,
    cell: ({ row }) => <Serial>{row.original.device.serial}</Serial>,
  },
  { header: 'Customer', id: 'customer', accessorKey: 'customerName', meta: { words: true } },
  {
    header: 'Ticket',
    id: 'ticket',
    accessorKey: 'ticketNumber',
    cell: ({ row }) => <Serial>{row.original.ticketNumber}</Serial>,
  },
  {
    header: 'Items',
    id: 'items',
    accessorKey: 'items',
    meta: { number: true },
    cell: ({ row }) => formatCount(row.original.items),
  },
  {
    header: 'On device',
    id: 'bytes',
    accessorKey: 'bytes',
    meta: { number: true },
    cell: ({ row }) => formatBytes(row.original.bytes),
  },
  {
    header: 'On rack',
    id: 'stored',
    accessorKey: 'storedBytes',
    meta: { number: true },
    cell: ({ row }) => formatBytes(row.original.storedBytes),
  },
  { header: 'Rack', id: 'rack', accessorKey: 'rackName', meta: { words: true } },
  {
    header: 'Proof',
    id: 'proof',
    accessorFn: (a) => (a.damaged ? 'Damaged' : a.provenAt ? 'Proven' : 'Not proven'),
    cell: ({ row: { original } }) => (
      <ProofMark provenAt={original.provenAt} damaged={original.damaged} />
    ),
  },
];
