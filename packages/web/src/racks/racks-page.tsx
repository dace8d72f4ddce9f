import { useQuery } from '@tanstack/react-query';
import type { Elevation as Drawn, PlannedNow, Rack } from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount, isOver, rackKindNames } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { DataTable } from '../design/data-table.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { useKey } from '../design/use-key.js';
import { useNow } from '../design/use-now.js';
import { AddRackOverlay } from './add-rack-overlay.js';
import { Courses, Racking, RackTarget } from './drag.js';
import { Elevation } from './elevation.js';
import { planByHand } from './moves/plan-address.js';
import { OwedSection } from './owed-section.js';
import { fullWords, whatNow, whereWords } from './rack-words.js';

/** So tall a rack is drawn here. */
const HEIGHT_PX = 230;

/** Every rack: those that are here drawn to scale, and all of them as a ledger. */
export function RacksPage() {
  const racks = useQuery(queries.racks());
  const elevations = useQuery(queries.elevations());
  const planned = useQuery(queries.plannedMoves());
  const [adding, setAdding] = useState(false);
  const navigate = useNavigate();
  useKey('m', () => navigate('/racks/plan'));
  const time = useNow();
  const error = racks.error ?? elevations.error;
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!racks.data || !elevations.data) return <Loading what="Going along the racks" />;
  const drawn = new Map(elevations.data.map((one) => [one.rackId, one]));
  const rows: Row[] = racks.data.map((rack) => ({ rack, drawn: drawn.get(rack.id) }));
  const here = rows.filter(({ rack }) => rack.present);
  const names = new Map(rows.map(({ rack }) => [rack.id, rack.name]));
  const now = whatNow(racks.data, elevations.data, time);
  return (
    <Page
      title="Racks"
      now={now.sentence}
      calm={!now.needs}
      aside={
        <span className="flex gap-2">
          <ButtonLink to="/racks/bring-in">Bring in</ButtonLink>
          <ButtonLink to="/racks/plan" aria-keyshortcuts="M">
            Plan moves
          </ButtonLink>
          <Button look={now.plan ? 'plain' : 'main'} onClick={() => setAdding(true)}>
            Add a rack
          </Button>
          {now.plan && (
            <ButtonLink look="main" to={now.plan.to}>
              {now.plan.name}
            </ButtonLink>
          )}
        </span>
      }
    >
      {here.length > 0 && (
        <Section title="Here now">
          <Racking names={names} onMove={(...move) => void navigate(planByHand(...move))}>
            <ul className="flex flex-wrap gap-x-8 gap-y-5 border border-line bg-surface px-5 pt-5 pb-4">
              {here.map((row) => (
                <li key={row.rack.id}>
                  <Standing {...row} planned={planned.data ?? []} />
                </li>
              ))}
            </ul>
          </Racking>
          <p className="text-small text-soft">
            Each to its own scale: other files hatched at the foot, archives in courses above them.
            They may rise to the broken line; what is above it is the reserve. Drag an archive onto
            another rack to plan a move.
          </p>
        </Section>
      )}
      <MoveNow />
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
function Standing({ rack, drawn, planned }: Row & { planned: readonly PlannedNow[] }) {
  const leaving = planned.filter(({ from }) => from === rack.id);
  const coming = planned.filter(({ to }) => to === rack.id);
  const sum = (some: readonly PlannedNow[]) => some.reduce((all, { bytes }) => all + bytes, 0);
  const lit = new Set(leaving.map(({ archiveId }) => archiveId));
  return (
    <div className="flex gap-3">
      <RackTarget id={rack.id}>
        <Elevation rack={rack} drawn={drawn} width={92} height={HEIGHT_PX} lit={lit} />
        {drawn && <Courses rack={rack} drawn={drawn} height={HEIGHT_PX} />}
      </RackTarget>
      <span className="flex w-36 flex-col text-small">
        <Link to={`/racks/${rack.id}`} className="text-large font-bold hover:underline">
          {rack.name}
        </Link>
        <span className="text-soft">{rack.note || rackKindNames[rack.kind]}</span>
        <span className="mt-2 text-soft">free now</span>
        <span className="font-semibold">{formatBytes(rack.free)}</span>
        <span className="text-soft">of {formatBytes(rack.capacity)}</span>
        {leaving.length + coming.length > 0 && (
          <>
            <span className="mt-2 text-soft">free after what is planned</span>
            <span className="font-semibold">
              {formatBytes(Math.max(0, rack.free + sum(leaving) - sum(coming)))}
            </span>
          </>
        )}
        <span className="mt-2 text-soft">{countOf(rack.archives, 'archive')}</span>
        <span className="font-semibold">{formatBytes(rack.storedBytes)}</span>
        <span className="mt-2 text-soft">full, as it goes now</span>
        <span className="font-semibold">{fullWords(drawn?.full ?? null)}</span>
      </span>
    </div>
  );
}

/** The plan that is being carried out, or that was cut off and can go on. */
function MoveNow() {
  const { id } = useQuery(queries.lastMove()).data ?? { id: null };
  const operation = useQuery({ ...queries.operation(id ?? ''), enabled: id !== null }).data;
  if (!operation || operation.state === 'done') return null;
  if (isOver(operation.state) && operation.keptBytes == null) return null;
  return (
    <p>
      <Link to={`/racks/moves/${operation.id}`} className="font-semibold underline">
        {isOver(operation.state)
          ? 'A move plan was cut off, and can go on'
          : 'A move plan is being carried out'}
      </Link>
      {!isOver(operation.state) &&
        `: ${formatBytes(operation.doneBytes)} of ${formatBytes(operation.totalBytes)}`}
    </p>
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
