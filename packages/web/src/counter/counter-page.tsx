import { useMutation, useQuery } from '@tanstack/react-query';
import {
  routes,
  type BenchView,
  type Berth,
  type Operation,
  type TicketRow,
} from '@bright-cellar/contract';
import {
  formatBytes,
  formatCount,
  isPartOnly,
  totalOf,
  visitReasons,
  type LinkDeviceId,
} from '@bright-cellar/core';
import { MoreMenu, type MoreItem } from '../account/more-menu.js';
import { useMay } from '../account/may.js';
import { call, problemFrom } from '../api/call.js';
import type { ColumnDef } from '@tanstack/react-table';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { day } from '../design/dates.js';
import { queries } from '../api/queries.js';
import { berthNow } from '../bench/berth-now.js';
import { Button, ButtonLink } from '../design/button.js';
import { DataTable } from '../design/data-table.js';
import { Loading } from '../design/loading.js';
import { StepMark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { usePaged } from '../design/use-paged.js';
import { EraseOverlay } from './erase-overlay.js';
import { StorageOverlay } from './storage-overlay.js';

/** What needs somebody now, what is on the bench, and every open ticket. */
export function CounterPage() {
  const bench = useQuery(queries.bench());
  const operations = useQuery(queries.operations()).data ?? [];
  const list = usePaged(queries.tickets(), { sort: 'opened', order: 'desc' }, { isKept: true });
  const onBench = (bench.data?.berths ?? []).flatMap(({ ticketNumber }) => ticketNumber ?? []);
  const theirs = useQuery(queries.ticketsOf([...new Set(onBench)].sort())).data?.rows ?? [];
  // A new shop has none.
  const hasRacks = useQuery(queries.racks()).data?.length !== 0;
  const mayRules = useMay()('house-rules');
  const navigate = useNavigate();
  const [isConnecting, setConnecting] = useState(false);
  if (!bench.data || !list.rows) return <Loading what="Looking at the bench" />;
  const now = hasRacks
    ? whatNow(bench.data, operations, theirs)
    : { needs: true, sentence: 'Add the first rack: a place that backups go to.' };
  return (
    <Page
      title="Counter"
      now={now.sentence}
      calm={!now.needs}
      aside={
        !hasRacks && (
          <ButtonLink look="main" to={mayRules ? '/first-steps' : '/racks'}>
            {mayRules ? 'Go to the first steps' : 'Go to the racks'}
          </ButtonLink>
        )
      }
    >
      <Section
        title="On the bench"
        aside={
          bench.data.storage && (
            <Button onClick={() => setConnecting(true)}>Connect mounted storage …</Button>
          )
        }
      >
        {isConnecting && <StorageOverlay onClose={() => setConnecting(false)} />}
        <OnTheBench bench={bench.data} operations={operations} />
      </Section>
      <Section
        title={`Open tickets (${formatCount(list.paged.total)})`}
        aside={<ButtonLink to="/tickets/new">New ticket for a dead device</ButtonLink>}
      >
        <DataTable
          label="Open tickets"
          rows={list.rows}
          columns={ticketColumns}
          paged={list.paged}
          onOpen={(ticket) => void navigate(`/tickets/${ticket.number}`)}
          empty="No ticket is open. Connect a device to a berth and open one from its row above."
        />
      </Section>
    </Page>
  );
}

function whatNow(
  bench: BenchView,
  operations: readonly Operation[],
  tickets: readonly TicketRow[],
) {
  for (const berth of bench.berths) {
    const operation = operations.find(
      (o) => o.deviceId !== null && o.deviceId === berth.device?.id,
    );
    const now = berthNow(berth, bench, operation);
    if (now.needs) {
      const named = /berth \d/i.test(now.sentence);
      return {
        needs: true,
        sentence: named ? now.sentence : `Berth ${berth.number}: ${now.sentence}`,
      };
    }
  }
  if (operations.length > 0) {
    return {
      needs: false,
      sentence: `Nothing needs you. ${operations.length === 1 ? 'One piece of work is' : `${operations.length} pieces of work are`} running.`,
    };
  }
  const waiting = tickets.find((t) => t.step);
  if (waiting?.step?.sentence)
    return { needs: true, sentence: `Ticket ${waiting.number}: ${waiting.step.sentence}` };
  return {
    needs: false,
    sentence: 'Nothing needs you. Connect a device to a free berth to begin.',
  };
}

function OnTheBench({ bench, operations }: { bench: BenchView; operations: readonly Operation[] }) {
  const [erasing, setErasing] = useState<string | null>(null);
  const present = bench.berths.filter((b) => b.device);
  if (present.length === 0) {
    return (
      <p className="border border-line bg-surface px-4 py-6 text-soft">
        No device is connected. Plug one into any berth.
      </p>
    );
  }
  return (
    <div className="overflow-x-auto border border-line bg-surface">
      <table className="w-full border-collapse text-left" aria-label="On the bench">
        <thead>
          <tr className="border-b border-edge text-small text-soft [&_th]:h-8 [&_th]:px-3 [&_th]:font-semibold">
            <th>Berth</th>
            <th>Device</th>
            <th>Serial</th>
            <th>OS</th>
            <th className="text-right">Charge</th>
            <th className="text-right">Holds</th>
            <th className="text-right">Items</th>
            <th>Owner lock</th>
            <th>
              <span className="sr-only">What can be done</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {present.map((berth) => (
            <BerthRow
              key={berth.number}
              berth={berth}
              busy={operations.some((o) => o.deviceId === berth.device?.id)}
              onErase={setErasing}
            />
          ))}
        </tbody>
      </table>
      {erasing && <EraseOverlay deviceId={erasing} onClose={() => setErasing(null)} />}
    </div>
  );
}

function BerthRow({
  berth,
  busy,
  onErase,
}: {
  berth: Berth;
  busy: boolean;
  onErase: (deviceId: string) => void;
}) {
  const { device } = berth;
  const letGo = useMutation({
    mutationFn: (deviceId: LinkDeviceId) => call(routes.letStorageGo, { params: { deviceId } }),
  });
  if (!device) return null;
  const held = device.content ? totalOf(device.content) : null;
  const more: MoreItem[] = [];
  if (!device.empty && device.capabilities.erase) {
    const onSelect = () => onErase(device.id);
    const name = 'Erase this device …';
    more.push({ name, permission: 'erase', danger: true, disabled: busy, onSelect });
  }
  if (isPartOnly(device)) {
    const onSelect = () => letGo.mutate(device.id);
    const name = 'Take it off the bench';
    const permission = routes.letStorageGo.access;
    more.push({ name, permission, disabled: busy || letGo.isPending, onSelect });
  }
  return (
    <tr className="h-11 border-b border-line last:border-b-0 [&_td]:px-3">
      <td className="font-mono text-large font-bold">{berth.number}</td>
      <td>
        <span className="font-semibold">{device.name}</span>
        <br />
        <span className="text-small text-soft">
          {device.familyName} {device.model}
        </span>
      </td>
      <td>
        {letGo.error && <ProblemNote problem={problemFrom(letGo.error)} />}
        <Serial>{device.serial}</Serial>
      </td>
      <td>{device.osVersion || '–'}</td>
      <td className="text-right">{device.charge === null ? '–' : `${device.charge} %`}</td>
      <td className="text-right">
        {device.empty ? 'empty' : held ? formatBytes(held.bytes) : 'not readable yet'}
      </td>
      <td className="text-right">{held ? held.items.toLocaleString('en') : ''}</td>
      <td>{device.ownerLock}</td>
      <td>
        <span className="flex justify-end gap-2 py-1">
          {berth.ticketNumber ? (
            <ButtonLink to={`/tickets/${berth.ticketNumber}`}>
              Ticket {berth.ticketNumber}
            </ButtonLink>
          ) : device.empty ? (
            <ButtonLink to="/archives">Choose a backup to restore</ButtonLink>
          ) : (
            <ButtonLink look="main" to={`/tickets/new/${device.id}`}>
              Open a ticket
            </ButtonLink>
          )}
          {more.length > 0 && <MoreMenu label={`More for berth ${berth.number}`} items={more} />}
        </span>
      </td>
    </tr>
  );
}

const ticketColumns: ColumnDef<TicketRow>[] = [
  {
    header: 'Ticket',
    id: 'number',
    accessorKey: 'number',
    cell: ({ row }) => <Serial>{row.original.number}</Serial>,
  },
  { header: 'Customer', id: 'customer', accessorKey: 'customerName', meta: { words: true } },
  {
    header: 'Device',
    id: 'device',
    meta: { words: true },
    accessorFn: (t) => `${t.device.name} ${t.device.model}`,
    cell: ({ row }) =>
      `${row.original.device.name}, ${row.original.device.familyName} ${row.original.device.model}`,
  },
  { header: 'Reason', id: 'reason', accessorFn: (t) => visitReasons[t.reason] },
  {
    header: 'Opened',
    id: 'opened',
    accessorKey: 'openedAt',
    cell: ({ row }) => day(row.original.openedAt),
  },
  {
    header: 'Step',
    // What is next depends on the device, and changes by itself.
    enableSorting: false,
    accessorFn: (t) => t.step?.title ?? '',
    cell: ({ row: { original } }) =>
      original.step ? (
        <span className="flex items-center gap-2">
          <StepMark state={original.step.state} /> {original.step.title}
        </span>
      ) : (
        'Nothing left to do'
      ),
  },
];
