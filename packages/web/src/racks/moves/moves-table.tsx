import type { Rack } from '@bright-cellar/contract';
import { formatBytes, formatDurationRange } from '@bright-cellar/core';
import type { MovePlan, Stock } from '@bright-cellar/core/placement';
import type { ColumnDef } from '@tanstack/react-table';
import { DataTable } from '../../design/data-table.js';
import type { ByHand } from './plan-address.js';

type PlannedMove = MovePlan['moves'][number];

/** The moves of a plan, in their order. Each can be sent elsewhere, or left. */
export function MovesTable({
  plan,
  stock,
  racks,
  onMove,
}: {
  plan: MovePlan;
  stock: Stock;
  racks: readonly Rack[];
  onMove: (move: ByHand) => void;
}) {
  const archives = new Map(stock.archives.map((archive) => [archive.id, archive]));
  const start = new Map(stock.copies.map((copy) => [copy.id, copy.rackId]));
  const nameOf = (id: string) => racks.find((rack) => rack.id === id)?.name ?? '';
  const rows = plan.moves.map((move, n) => ({ ...move, n: n + 1 }));
  const columns: ColumnDef<PlannedMove & { n: number }>[] = [
    { header: 'Turn', accessorKey: 'n', meta: { number: true } },
    {
      header: 'Device',
      accessorFn: ({ archiveId }) => archives.get(archiveId)?.deviceName ?? '',
      meta: { words: true },
      cell: ({ getValue }) => <span className="font-semibold">{getValue<string>()}</span>,
    },
    {
      header: 'Customer',
      accessorFn: ({ archiveId }) => archives.get(archiveId)?.customerName ?? '',
      meta: { words: true },
    },
    {
      header: 'Size',
      accessorKey: 'bytes',
      meta: { number: true },
      cell: ({ getValue }) => formatBytes(getValue<number>()),
    },
    { header: 'From', accessorFn: ({ from }) => nameOf(from) },
    {
      header: 'Onto',
      accessorFn: ({ to, detour }) => nameOf(to) + (detour ? ', on its way' : ''),
      cell: ({ row: { original } }) => (
        <Onto
          move={original}
          racks={racks}
          label={archives.get(original.archiveId)?.deviceName ?? ''}
          onChange={(to) => {
            const from = start.get(original.copyId);
            const target = stock.racks.find(({ id }) => String(id) === to);
            if (from && target) onMove([original.archiveId, from, target.id]);
          }}
        />
      ),
    },
    {
      header: 'It takes',
      accessorFn: ({ highMs }) => highMs,
      cell: ({ row: { original } }) => formatDurationRange(original.lowMs, original.highMs),
    },
    {
      header: 'Left there then',
      accessorKey: 'leftThere',
      meta: { number: true },
      cell: ({ getValue }) => formatBytes(getValue<number>()),
    },
  ];
  return (
    <DataTable
      label="Moves in their order"
      rows={rows}
      columns={columns}
      empty="Nothing has to move."
    />
  );
}

/** Where a move goes; the rack that it is on leaves it there. */
function Onto({
  move: { from, to, detour },
  racks,
  label,
  onChange,
}: {
  move: PlannedMove;
  racks: readonly Rack[];
  label: string;
  onChange: (to: string) => void;
}) {
  if (detour) return <>{racks.find(({ id }) => id === to)?.name}, on its way</>;
  return (
    <select
      aria-label={`Where ${label} goes`}
      value={to}
      onChange={({ target }) => onChange(target.value)}
      className="h-8 rounded-sm border border-edge bg-surface px-1"
    >
      {racks.map(({ id, name }) => (
        <option key={id} value={id}>
          {id === from ? `stays on ${name}` : name}
        </option>
      ))}
    </select>
  );
}
