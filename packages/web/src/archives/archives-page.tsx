import { useQuery } from '@tanstack/react-query';
import type { ArchiveRow } from '@bright-cellar/contract';
import { formatBytes, formatCount } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { DataTable } from '../design/data-table.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { ProofMark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';
import { Serial } from '../design/serial.js';

/** Everything that is kept. */
export function ArchivesPage() {
  const archives = useQuery(queries.archives());
  const [filter, setFilter] = useState('');
  const navigate = useNavigate();
  if (archives.isPending) return <Loading what="Going down to the cellar" />;
  if (archives.error) return <ProblemNote problem={problemFrom(archives.error)} />;
  const now = whatNow(archives.data);
  return (
    <Page title="Archives" now={now.sentence} calm={!now.needs}>
      <div className="flex items-end justify-between gap-6">
        <TextField
          label="Show only"
          placeholder="Customer, device, serial, ticket, rack"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
          className="w-96"
        />
        <p className="text-soft">
          {formatCount(archives.data.length)} archives,{' '}
          {formatBytes(archives.data.reduce((sum, a) => sum + a.storedBytes, 0))} on racks
        </p>
      </div>
      <DataTable
        label="Archives"
        rows={archives.data}
        columns={columns}
        filter={filter}
        onOpen={(archive) => void navigate(`/archives/${archive.id}`)}
        empty="Nothing is kept yet. Open a ticket for a device on the bench and take its backup."
      />
    </Page>
  );
}

function whatNow(archives: readonly ArchiveRow[]): { sentence: string; needs: boolean } {
  const damaged = archives.find((a) => a.damaged);
  if (damaged)
    return {
      needs: true,
      sentence: `The archive of ${damaged.device.name} is damaged: take a new backup and erase nothing.`,
    };
  const unproven = archives.filter((a) => !a.provenAt).length;
  if (unproven > 0)
    return {
      needs: true,
      sentence:
        unproven === 1
          ? 'Prove the one archive that has not been proven.'
          : `Prove the ${unproven} archives that have not been proven.`,
    };
  return {
    needs: false,
    sentence:
      archives.length > 0
        ? 'Nothing needs you down here. Every archive is proven.'
        : 'Nothing is kept yet.',
  };
}

const columns: ColumnDef<ArchiveRow>[] = [
  {
    header: 'Taken',
    accessorKey: 'takenAt',
    cell: ({ row }) => <span>{dateTime(row.original.takenAt)}</span>,
  },
  {
    header: 'Device',
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
    accessorFn: (a) => a.device.serial,
    cell: ({ row }) => <Serial>{row.original.device.serial}</Serial>,
  },
  { header: 'Customer', accessorKey: 'customerName', meta: { words: true } },
  {
    header: 'Ticket',
    accessorKey: 'ticketNumber',
    cell: ({ row }) => <Serial>{row.original.ticketNumber}</Serial>,
  },
  {
    header: 'Items',
    accessorKey: 'items',
    meta: { number: true },
    cell: ({ row }) => formatCount(row.original.items),
  },
  {
    header: 'On device',
    accessorKey: 'bytes',
    meta: { number: true },
    cell: ({ row }) => formatBytes(row.original.bytes),
  },
  {
    header: 'On rack',
    accessorKey: 'storedBytes',
    meta: { number: true },
    cell: ({ row }) => formatBytes(row.original.storedBytes),
  },
  { header: 'Rack', accessorKey: 'rackName' },
  {
    header: 'Proof',
    accessorFn: (a) => (a.damaged ? 'Damaged' : a.provenAt ? 'Proven' : 'Not proven'),
    cell: ({ row: { original } }) => (
      <ProofMark provenAt={original.provenAt} damaged={original.damaged} />
    ),
  },
];
