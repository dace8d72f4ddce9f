import { useQuery } from '@tanstack/react-query';
import type { Elevation as Drawn, Rack } from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount, rackKindNames } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { DataTable } from '../design/data-table.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { AddRackOverlay } from './add-rack-overlay.js';
import { Elevation } from './elevation.js';
import { OwedSection } from './owed-section.js';
import { fullWords, whatNow, whereWords } from './rack-words.js';

/** Every rack: those that are here drawn to scale, and all of them as a ledger. */
export function RacksPage() {
  const racks = useQuery(queries.racks());
  const elevations = useQuery(queries.elevations());
  const [adding, setAdding] = useState(false);
  const navigate = useNavigate();
  const error = racks.error ?? elevations.error;
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!racks.data || !elevations.data) return <Loading what="Going along the racks" />;
  const drawn = new Map(elevations.data.map((one) => [one.rackId, one]));
  const rows: Row[] = racks.data.map((rack) => ({ rack, drawn: drawn.get(rack.id) }));
  const here = rows.filter(({ rack }) => rack.present);
  const now = whatNow(racks.data, elevations.data, new Date());
  return (
    <Page
      title="Racks"
      now={now.sentence}
      calm={!now.needs}
      aside={
        <Button look="main" onClick={() => setAdding(true)}>
          Add a rack
        </Button>
      }
    >
      {here.length > 0 && (
        <Section title="Here now">
          <ul className="flex flex-wrap gap-x-8 gap-y-5 border border-line bg-surface px-5 pt-5 pb-4">
            {here.map((row) => (
              <li key={row.rack.id}>
                <Standing {...row} />
              </li>
            ))}
          </ul>
          <p className="text-small text-soft">
            Each to its own scale: other files hatched at the foot, archives in courses above them.
            They may rise to the broken line; what is above it is the reserve.
          </p>
        </Section>
      )}
      <OwedSection />
      <Section
        title="All racks"
        aside={
          <p className="text-soft">
            {countOf(rows.length, 'rack')}, {formatCount(here.length)} here
          </p>
        }
      >
        <DataTable
          label="All racks"
          rows={rows}
          columns={columns}
          onOpen={({ rack }) => void navigate(`/racks/${rack.id}`)}
          empty="There is no rack yet. Add a folder of a disk, a drive or a share: backups go there."
        />
      </Section>
      {adding && <AddRackOverlay onClose={() => setAdding(false)} />}
    </Page>
  );
}

interface Row {
  rack: Rack;
  drawn: Drawn | undefined;
}

/** A rack as it stands there, with its figures beside it. */
function Standing({ rack, drawn }: Row) {
  return (
    <div className="relative flex gap-3 hover:bg-ground">
      <Elevation rack={rack} drawn={drawn} width={92} height={230} />
      <span className="flex w-36 flex-col text-small">
        <Link
          to={`/racks/${rack.id}`}
          className="text-large font-bold after:absolute after:inset-0"
        >
          {rack.name}
        </Link>
        <span className="text-soft">{rack.note || rackKindNames[rack.kind]}</span>
        <span className="mt-2 text-soft">free now</span>
        <span className="font-semibold">{formatBytes(rack.free)}</span>
        <span className="text-soft">of {formatBytes(rack.capacity)}</span>
        <span className="mt-2 text-soft">{countOf(rack.archives, 'archive')}</span>
        <span className="font-semibold">{formatBytes(rack.storedBytes)}</span>
        <span className="mt-2 text-soft">full, as it goes now</span>
        <span className="font-semibold">{fullWords(drawn?.full ?? null)}</span>
      </span>
    </div>
  );
}

const columns: ColumnDef<Row>[] = [
  {
    header: 'Name',
    id: 'name',
    accessorFn: ({ rack }) => rack.name,
    cell: ({ row: { original } }) => <span className="font-semibold">{original.rack.name}</span>,
  },
  {
    header: 'Label',
    id: 'code',
    accessorFn: ({ rack }) => rack.code,
    cell: ({ row: { original } }) => <Serial>{original.rack.code}</Serial>,
  },
  { header: 'Kind', id: 'kind', accessorFn: ({ rack }) => rackKindNames[rack.kind] },
  { header: 'Note', id: 'note', accessorFn: ({ rack }) => rack.note, meta: { words: true } },
  { header: 'Where', id: 'where', accessorFn: ({ rack }) => whereWords(rack) },
  {
    header: 'Archives',
    id: 'archives',
    accessorFn: ({ rack }) => rack.archives,
    meta: { number: true },
    cell: ({ getValue }) => formatCount(getValue<number>()),
  },
  {
    header: 'They take',
    id: 'stored',
    accessorFn: ({ rack }) => rack.storedBytes,
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
  {
    header: 'Free',
    id: 'free',
    accessorFn: ({ rack }) => rack.free,
    meta: { number: true },
    cell: ({ row: { original } }) =>
      original.rack.present ? formatBytes(original.rack.free) : '–',
  },
  {
    header: 'Reserve',
    id: 'reserve',
    accessorFn: ({ rack }) => rack.reserve,
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
];
