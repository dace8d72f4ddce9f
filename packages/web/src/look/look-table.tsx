import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import type { ColumnDef } from '@tanstack/react-table';
import { useCallback, useDeferredValue, useState, type ReactNode } from 'react';
import { DataTable } from '../design/data-table.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Section } from '../design/page.js';
import { lookKey } from './queries.js';

/** What is in a backup as a list: searched where it is, and fetched as far as somebody reads. */
export function LookTable<Row>({
  id,
  name,
  label,
  columns,
  page,
  empty = 'Nothing by that name.',
  onOpen,
  children,
}: {
  id: string;
  /** What it is, over it. */
  name: string;
  /** What the field over it asks for; without one nothing is looked for in it. */
  label?: string;
  columns: ColumnDef<Row>[];
  page: (text: string, from: number) => Promise<{ rows: Row[]; total: number }>;
  empty?: string;
  onOpen?: (row: Row) => void;
  children?: ReactNode;
}) {
  const [text, setText] = useState('');
  const asked = useDeferredValue(text.trim());
  const list = useInfiniteQuery({
    queryKey: [...lookKey(id), 'list', name, asked],
    queryFn: ({ pageParam }) => page(asked, pageParam),
    initialPageParam: 0,
    getNextPageParam: ({ rows, total }, pages) => {
      const told = pages.reduce((sum, { rows: some }) => sum + some.length, 0);
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
  if (!list.data) return <Loading what="Listing them" />;
  return (
    <Section title={name}>
      {label !== undefined && (
        <TextField
          label={label}
          type="search"
          autoComplete="off"
          value={text}
          onChange={({ target }) => setText(target.value)}
        />
      )}
      {children}
      <DataTable
        label={name}
        rows={list.data.pages.flatMap(({ rows }) => rows)}
        columns={columns}
        {...(onOpen ? { onOpen } : {})}
        empty={empty}
        paged={{
          sort: '',
          order: 'asc',
          onSort: () => undefined,
          total: list.data.pages[0]?.total ?? 0,
          hasMore: hasNextPage,
          onMore,
        }}
      />
    </Section>
  );
}
