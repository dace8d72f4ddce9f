import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import type { ColumnDef } from '@tanstack/react-table';
import { lookPicturePath, routes, type LookFile } from '@bright-cellar/contract';
import { dataClasses, formatBytes, type DataClass } from '@bright-cellar/core';
import { useCallback, useDeferredValue, useState } from 'react';
import { call } from '../api/call.js';
import { DataTable } from '../design/data-table.js';
import { dateTime } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Section } from '../design/page.js';
import { lookKey } from './queries.js';

const columns: ColumnDef<LookFile>[] = [
  {
    id: 'path',
    header: 'Path on the device',
    enableSorting: false,
    cell: ({ row }) => row.original.path,
    meta: { words: true },
  },
  {
    id: 'bytes',
    header: 'Size',
    enableSorting: false,
    cell: ({ row }) => formatBytes(row.original.bytes),
    meta: { number: true },
  },
  {
    id: 'modified',
    header: 'Changed',
    enableSorting: false,
    cell: ({ row }) => dateTime(row.original.modified),
  },
];

/** A class as the files that it is; a picture is shown beside. */
export function LookFiles({ id, dataClass }: { id: string; dataClass: DataClass }) {
  const [text, setText] = useState('');
  const [shown, setShown] = useState<LookFile | null>(null);
  const asked = useDeferredValue(text.trim());
  const list = useInfiniteQuery({
    queryKey: [...lookKey(id), 'files', dataClass, asked],
    queryFn: ({ pageParam }) =>
      call(routes.lookFiles, {
        params: { id },
        body: { class: dataClass, text: asked, from: pageParam },
      }),
    initialPageParam: 0,
    getNextPageParam: ({ rows, total }, pages) => {
      const told = pages.reduce((sum, page) => sum + page.rows.length, 0);
      return rows.length > 0 && told < total ? told : null;
    },
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0,
  });
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  const onMore = useCallback(() => {
    if (!isFetchingNextPage) void fetchNextPage();
  }, [isFetchingNextPage, fetchNextPage]);
  const rows = list.data?.pages.flatMap((page) => page.rows);
  if (!rows) return <Loading what="Listing the files" />;
  return (
    <Section title={dataClasses[dataClass]}>
      <TextField
        label="Whose path has"
        type="search"
        autoComplete="off"
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      {shown && (
        <figure className="flex flex-col gap-1 border border-line bg-surface p-3">
          <img
            src={lookPicturePath(id, shown.item, 1200)}
            alt={`Picture ${shown.path}`}
            className="max-h-[45vh] self-center object-contain"
          />
          <figcaption className="text-small text-soft">
            {shown.path}, {formatBytes(shown.bytes)}, {dateTime(shown.modified)}
          </figcaption>
        </figure>
      )}
      <DataTable
        label={dataClasses[dataClass]}
        rows={rows}
        columns={columns}
        onOpen={(file) => setShown(file.isPicture ? file : null)}
        empty="Nothing by that name."
        paged={{
          sort: 'path',
          order: 'asc',
          onSort: () => undefined,
          total: list.data?.pages[0]?.total ?? 0,
          hasMore: hasNextPage,
          onMore,
        }}
      />
    </Section>
  );
}
