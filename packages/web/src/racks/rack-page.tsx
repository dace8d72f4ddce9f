import { useQuery } from '@tanstack/react-query';
import {
  rackLabelPath,
  routes,
  type Rack,
  type RackCopy,
  type RackInFull,
} from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount, rackKindNames, roomAbove } from '@bright-cellar/core';
import type { ColumnDef } from '@tanstack/react-table';
import { OctagonX } from 'lucide-react';
import { useCallback, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { MoreMenu } from '../account/more-menu.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { Chart, type Inks } from '../design/chart.js';
import { dateTime, day } from '../design/dates.js';
import { DataTable } from '../design/data-table.js';
import { Facts, Figure } from '../design/figures.js';
import { Loading } from '../design/loading.js';
import { Mark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Digest, Serial } from '../design/serial.js';
import { useNow } from '../design/use-now.js';
import { usePaged } from '../design/use-paged.js';
import { ChangeRackOverlay } from './change-rack-overlay.js';
import { Elevation } from './elevation.js';
import { LooksSection } from './looks-section.js';
import { fullWords, whatNow, whereWords } from './rack-words.js';
import { RetireRackOverlay } from './retire-rack-overlay.js';
import { roomChart } from './room-chart.js';

/** One rack: how it stands, what lies on it, and how its room goes. Also while it is away. */
export function RackPage() {
  const { id = '' } = useParams();
  const found = useQuery(queries.rack(id));
  if (found.isPending) return <Loading what="Going to the rack" />;
  if (found.error) {
    return (
      <Page title="Rack" now="Go back to the racks and choose again." calm>
        <ProblemNote problem={problemFrom(found.error)} />
      </Page>
    );
  }
  return <Standing key={id} {...found.data} />;
}

function notHere(rack: Rack): { needs: boolean; sentence: string } {
  const next = rack.retiredAt
    ? 'add it again to use what lies there.'
    : 'connect it to use what lies there.';
  const why = rack.awayWhy ? ` ${rack.awayWhy}` : '';
  return {
    needs: rack.awayWhy !== '',
    sentence: `${rack.name} is ${whereWords(rack)}: ${next}${why}`,
  };
}

function Standing({ rack, elevation, days }: RackInFull) {
  const list = usePaged(queries.rackCopies(rack.id), { sort: 'stored', order: 'desc' });
  const navigate = useNavigate();
  const [asked, setAsked] = useState<'change' | 'retire' | null>(null);
  const draw = useCallback(
    (inks: Inks) => roomChart(days, rack.reserve, inks),
    [days, rack.reserve],
  );
  const time = useNow();
  const now: ReturnType<typeof whatNow> = rack.present
    ? whatNow([rack], [elevation], time)
    : notHere(rack);
  const close = () => setAsked(null);
  const plan = (wish: 'room' | 'empty') =>
    void navigate(`/racks/plan?wish=${wish}&rack=${rack.id}`);
  return (
    <Page
      title={`Rack ${rack.name}`}
      now={now.sentence}
      calm={!now.needs}
      aside={
        <span className="flex gap-2">
          {!rack.retiredAt && (
            <MoreMenu
              label="More to do with this rack"
              items={[
                { name: 'Make room on it', permission: 'move', onSelect: () => plan('room') },
                { name: 'Empty it', permission: 'move', onSelect: () => plan('empty') },
                {
                  name: 'Put it out of use',
                  permission: routes.retireRack.access,
                  onSelect: () => setAsked('retire'),
                },
              ]}
            />
          )}
          <a
            href={rackLabelPath(rack.id)}
            target="_blank"
            rel="noreferrer"
            className="inline-flex h-9 items-center rounded-sm border border-edge bg-surface px-4 font-semibold hover:bg-ground"
          >
            Print its label
          </a>
          {!rack.retiredAt && <Button onClick={() => setAsked('change')}>Change it</Button>}
          {now.plan && (
            <ButtonLink look="main" to={now.plan.to}>
              {now.plan.name}
            </ButtonLink>
          )}
        </span>
      }
    >
      <div className="grid grid-cols-1 items-start gap-x-8 gap-y-5 lg:grid-cols-[11rem_minmax(0,1fr)]">
        <div className="flex flex-col gap-3">
          <Elevation rack={rack} drawn={elevation} width={176} height={430} />
          <Facts
            facts={[
              ['Kind', rackKindNames[rack.kind]],
              ['Label', <Serial key="l">{rack.code}</Serial>],
              ...(rack.note ? [['Note', rack.note] as const] : []),
              ['Seen', rack.seenAt ? dateTime(rack.seenAt) : 'never'],
            ]}
          />
          <Digest>{rack.where}</Digest>
        </div>
        <div className="flex min-w-0 flex-col gap-5">
          <div className="flex flex-wrap gap-x-8 gap-y-2">
            <Figure
              value={rack.present ? formatBytes(roomAbove(rack)) : '–'}
              of={`above a reserve of ${formatBytes(rack.reserve)}`}
            >
              Room now
            </Figure>
            <Figure value={formatBytes(rack.storedBytes)} of={countOf(rack.archives, 'archive')}>
              Archives take
            </Figure>
            <Figure value={formatBytes(rack.capacity)}>Capacity</Figure>
            <Figure
              value={fullWords(elevation.full)}
              {...(elevation.full ? { of: 'in four cases of five' } : {})}
            >
              Full, as it goes now
            </Figure>
          </div>
          <Section title="Free room over time">
            <div className="border border-line bg-surface p-3">
              {days.length < 2 ? (
                <p className="flex h-24 items-center text-soft">
                  Its room is noted every day that it is here: after a week this tells when it will
                  be full.
                </p>
              ) : (
                <Chart
                  label={`Free room from ${day(days[0]?.day ?? '')} to ${day(days.at(-1)?.day ?? '')}: from ${formatBytes(days[0]?.free ?? 0)} to ${formatBytes(days.at(-1)?.free ?? 0)}`}
                  height={150}
                  draw={draw}
                />
              )}
            </div>
          </Section>
          <Section
            title="What lies on it"
            aside={<p className="text-soft">{formatCount(list.paged.total)} archives</p>}
          >
            {list.error && <ProblemNote problem={problemFrom(list.error)} />}
            <DataTable
              label="What lies on it"
              rows={list.rows ?? []}
              columns={columns}
              paged={list.paged}
              onOpen={({ archiveId }) => void navigate(`/archives/${archiveId}`)}
              empty="No archive lies here yet. Take a backup onto it, or copy an archive here from its page."
            />
          </Section>
          <LooksSection rackId={rack.id} />
        </div>
      </div>
      {asked === 'change' && <ChangeRackOverlay rack={rack} onClose={close} />}
      {asked === 'retire' && (
        <RetireRackOverlay rack={rack} onClose={close} onDone={() => void navigate('/racks')} />
      )}
    </Page>
  );
}

/** Each by the name that the server sorts it by; the others are not sorted. */
const columns: ColumnDef<RackCopy>[] = [
  {
    header: 'Size',
    id: 'stored',
    accessorKey: 'storedBytes',
    meta: { number: true },
    cell: ({ getValue }) => formatBytes(getValue<number>()),
  },
  {
    header: 'Device',
    enableSorting: false,
    accessorKey: 'deviceName',
    meta: { words: true },
    cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
  },
  { header: 'Customer', enableSorting: false, accessorKey: 'customerName', meta: { words: true } },
  {
    header: 'Ticket',
    enableSorting: false,
    accessorKey: 'ticketNumber',
    cell: ({ getValue }) => <Serial>{getValue<string>()}</Serial>,
  },
  {
    header: 'Last backup',
    enableSorting: false,
    accessorKey: 'takenAt',
    cell: ({ getValue }) => day(getValue<string>()),
  },
  {
    header: 'Last look',
    enableSorting: false,
    accessorFn: ({ checkedAt }) => checkedAt ?? '',
    cell: ({ row: { original } }) =>
      original.state === 'damaged' ? (
        <Mark icon={<OctagonX />} tone="danger">
          Damaged
        </Mark>
      ) : original.checkedAt ? (
        day(original.checkedAt)
      ) : (
        'not in this state'
      ),
  },
  {
    header: 'State',
    enableSorting: false,
    accessorFn: ({ isNewest }) => (isNewest ? 'newest' : 'older'),
  },
  {
    header: 'Elsewhere',
    enableSorting: false,
    accessorFn: ({ others }) => (others === 0 ? 'nowhere' : countOf(others, 'copy', 'copies')),
  },
];
