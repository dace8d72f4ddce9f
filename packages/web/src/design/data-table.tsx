import {
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type ColumnDef,
  type SortingState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';

const ROW_PX = 36;
/** More rows are asked for when so few are left below the last one in sight. */
const AHEAD_ROWS = 30;

/** How the rest of a list is reached. */
export interface Paged {
  /** The id of the column that it is sorted by. */
  sort: string;
  order: 'asc' | 'desc';
  onSort: (column: string, order: 'asc' | 'desc') => void;
  /** How many rows there are in all. */
  total: number;
  hasMore: boolean;
  onMore: () => void;
}

/** Above this many, only the rows in sight exist. */
const ALL_ROWS = 200;

/**
 * A ledger: sorted by its headings, filtered by typed letters, walked with the arrow keys, opened with
 * Enter. A column's `meta` says what it holds: `number` is set to the
 * right, `words` may be of any length and is cut where the room ends.
 */
export function DataTable<Row>({
  label,
  rows,
  columns,
  filter = '',
  onOpen,
  empty,
  paged,
}: {
  label: string;
  rows: Row[];
  columns: ColumnDef<Row>[];
  filter?: string;
  onOpen?: (row: Row) => void;
  empty: ReactNode;
  /** Where the rows are a part of more, which are sorted and searched elsewhere. */
  paged?: Paged;
}) {
  const [ownSorting, setOwnSorting] = useState<SortingState>([]);
  const sorting = paged ? [{ id: paged.sort, desc: paged.order === 'desc' }] : ownSorting;
  const scroller = useRef<HTMLDivElement>(null);
  // The library's hooks keep their own memory; the compiler's rules do not know them.
  const table = useReactTable({
    data: rows,
    columns,
    state: { sorting, globalFilter: paged ? '' : filter },
    enableSortingRemoval: paged === undefined,
    manualSorting: paged !== undefined,
    onSortingChange: (change) => {
      const [first] = typeof change === 'function' ? change(sorting) : change;
      if (!paged) setOwnSorting(change);
      else if (first) paged.onSort(first.id, first.desc ? 'desc' : 'asc');
    },
    globalFilterFn: 'includesString',
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  });
  const shown = table.getRowModel().rows;
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
    enabled: shown.length > ALL_ROWS || paged?.hasMore === true,
  });
  const long = shown.length > ALL_ROWS || paged?.hasMore === true;
  const items = long
    ? virtual.getVirtualItems()
    : shown.map((_, index) => ({ index, start: index * ROW_PX }));
  const lastInSight = items.at(-1)?.index ?? 0;
  const wantsMore = paged?.hasMore === true && lastInSight > shown.length - AHEAD_ROWS;
  const onMore = paged?.onMore;
  useEffect(() => {
    if (wantsMore) onMore?.();
  }, [wantsMore, onMore, shown.length]);
  const before = items[0]?.start ?? 0;
  const after = long ? virtual.getTotalSize() - (items.at(-1)?.start ?? 0) - ROW_PX : 0;

  const walk = (event: KeyboardEvent<HTMLTableRowElement>, row: Row) => {
    if (event.target !== event.currentTarget) return;
    if (event.key === 'Enter') onOpen?.(row);
    const next =
      event.key === 'ArrowDown'
        ? event.currentTarget.nextElementSibling
        : event.key === 'ArrowUp'
          ? event.currentTarget.previousElementSibling
          : null;
    if (!(next instanceof HTMLElement)) return;
    event.preventDefault();
    next.focus();
  };

  if (rows.length === 0 && filter === '')
    return <div className="border border-line bg-surface px-4 py-6 text-soft">{empty}</div>;
  return (
    <div
      ref={scroller}
      className={clsx(
        'border border-line bg-surface',
        long ? 'h-[60vh] overflow-auto' : 'overflow-x-auto',
      )}
      {...(long ? { tabIndex: 0, role: 'region', 'aria-label': label } : {})}
    >
      <table
        aria-label={label}
        aria-rowcount={paged?.total ?? shown.length}
        className="w-full border-collapse text-left"
      >
        <thead className="sticky top-0 bg-surface">
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} className="border-b border-edge">
              {group.headers.map((header) => {
                const sorted = header.column.getIsSorted();
                const name = flexRender(header.column.columnDef.header, header.getContext());
                return (
                  <th
                    key={header.id}
                    aria-sort={
                      sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'
                    }
                    className={clsx(
                      'h-8 px-2 text-small font-semibold whitespace-nowrap text-soft',
                      has(header.column.columnDef, 'number') && 'text-right',
                    )}
                  >
                    {header.column.getCanSort() ? (
                      <button
                        type="button"
                        onClick={header.column.getToggleSortingHandler()}
                        className="inline-flex min-h-7 min-w-6 items-center gap-1"
                      >
                        {name}
                        {sorted === 'asc' && <ArrowUp className="size-3" />}
                        {sorted === 'desc' && <ArrowDown className="size-3" />}
                      </button>
                    ) : (
                      name
                    )}
                  </th>
                );
              })}
            </tr>
          ))}
        </thead>
        <tbody>
          {before > 0 && <tr aria-hidden style={{ height: before }} />}
          {items.map(({ index }) => {
            const row = shown[index];
            if (!row) return null;
            return (
              <tr
                key={row.id}
                tabIndex={onOpen ? 0 : undefined}
                onKeyDown={(event) => walk(event, row.original)}
                onClick={() => onOpen?.(row.original)}
                className={clsx(
                  'h-9 border-b border-line last:border-b-0',
                  onOpen && 'cursor-pointer -outline-offset-2 hover:bg-ground',
                )}
              >
                {row.getVisibleCells().map((cell) => (
                  <td
                    key={cell.id}
                    className={clsx(
                      'px-2 py-1 whitespace-nowrap',
                      has(cell.column.columnDef, 'number') && 'text-right',
                      has(cell.column.columnDef, 'words') && 'max-w-44 truncate',
                    )}
                  >
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </td>
                ))}
              </tr>
            );
          })}
          {after > 0 && <tr aria-hidden style={{ height: after }} />}
        </tbody>
      </table>
      {shown.length === 0 && <p className="px-4 py-6 text-soft">Nothing matches “{filter}”.</p>}
    </div>
  );
}

function has(column: { meta?: object }, what: 'number' | 'words'): boolean {
  return column.meta !== undefined && what in column.meta;
}
