import type { ColumnDef } from '@tanstack/react-table';
import type { ShelfId, ShelfPart } from '@bright-cellar/contract';
import { useState, type ReactNode } from 'react';
import { DataTable } from '../../design/data-table.js';
import { Loading } from '../../design/loading.js';
import { useShelf, type Shown } from './use-shelf.js';

export type Row<Id extends ShelfId> = ShelfPart<Id>['rows'][number];

/** A shelf as a ledger. */
export function ShelfTable<Id extends ShelfId>({
  shelf,
  label,
  shown,
  columns,
  detail,
}: {
  shelf: Id;
  label: string;
  shown: Shown;
  columns: ColumnDef<Row<Id>>[];
  /** All that is known of a row, over the ledger. */
  detail?: (row: Row<Id>) => ReactNode;
}) {
  const [open, setOpen] = useState<Row<Id> | null>(null);
  const read = useShelf(shelf, shown);
  if (!read) return <Loading what="Listing them" />;
  return (
    <>
      {open && detail?.(open)}
      <DataTable
        label={label}
        rows={read.rows}
        columns={columns}
        {...(detail ? { onOpen: setOpen } : {})}
        empty="Nothing of that is in it."
        paged={{
          ...{ sort: '', order: 'asc', onSort: () => undefined },
          ...{ total: read.total, hasMore: read.hasMore, onMore: read.onMore },
        }}
      />
    </>
  );
}

export function column<Of>(
  id: string,
  header: string,
  cell: (row: Of) => ReactNode,
  meta?: { words: true } | { number: true },
): ColumnDef<Of> {
  return {
    ...{ id, header, enableSorting: false, cell: ({ row }) => cell(row.original) },
    ...(meta ? { meta } : {}),
  };
}

/** What is known of something, over the ledger; what says nothing is left out. */
export function Facts({
  label,
  title,
  facts,
  foot,
  children,
}: {
  label: string;
  title: string;
  facts: readonly [string, string][];
  foot: ReactNode;
  children?: ReactNode;
}) {
  return (
    <section aria-label={label} className="border border-line bg-surface px-4 py-3">
      <h3 className="text-large">{title}</h3>
      {children}
      <dl className="grid grid-cols-[7rem_minmax(0,1fr)] gap-x-3">
        {facts
          .filter(([, words]) => words !== '')
          .map(([what, words]) => (
            <div key={what} className="contents">
              <dt className="text-soft">{what}</dt>
              <dd className="break-words whitespace-pre-wrap">{words}</dd>
            </div>
          ))}
      </dl>
      <span className="mt-2 block">{foot}</span>
    </section>
  );
}
