import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { routes, type ShelfId, type ShelfPart } from '@bright-cellar/contract';
import { useCallback } from 'react';
import { call } from '../../api/call.js';
import { lookKey } from '../queries.js';

/** What a shelf view is told: whose look-in, what somebody looks for in it, and how to say that it is read on. */
export interface Shown {
  id: string;
  text: string;
}

export interface Read<Id extends ShelfId> {
  rows: ShelfPart<Id>['rows'];
  total: number;
  months: ShelfPart<Id>['months'];
  hasMore: boolean;
  onMore: () => void;
}

/** Rows of a shelf, fetched as far as somebody reads. @param start the first row that is read */
export function useShelf<Id extends ShelfId>(
  shelf: Id,
  { id, text }: Shown,
  start = 0,
): Read<Id> | null {
  const list = useInfiniteQuery({
    queryKey: [...lookKey(id), 'shelf', shelf, text, start],
    queryFn: async ({ pageParam }) => {
      const part = await call(routes.lookShelf, {
        params: { id, shelf },
        body: { text, from: pageParam },
      });
      return part as ShelfPart<Id>;
    },
    initialPageParam: start,
    getNextPageParam: ({ rows, total }, pages) => {
      const told = pages.reduce((sum, { rows: some }) => sum + some.length, start);
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
  const [first] = list.data?.pages ?? [];
  if (!list.data || !first) return null;
  return {
    rows: list.data.pages.flatMap(({ rows }) => rows),
    ...{ total: first.total, months: first.months, hasMore: hasNextPage, onMore },
  };
}
