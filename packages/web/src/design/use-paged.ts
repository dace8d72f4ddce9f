import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useCallback, useDeferredValue, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { ListAsk, PagedList } from '../api/queries.js';
import type { Paged } from './data-table.js';

/**
 * A list that is searched, sorted and paged by the server: as much of it as was looked at.
 * @param usual how it is sorted at first
 * @param isKept whether what is searched for stays in the address: it is there again on the way back, and can be sent
 */
export function usePaged<Row, Sort extends string>(
  { queryKey, page }: PagedList<Row, Sort>,
  usual: Omit<ListAsk<NoInfer<Sort>>, 'text'>,
  { isKept = false } = {},
) {
  const [address, setAddress] = useSearchParams();
  const [text, type] = useState(isKept ? (address.get('find') ?? '') : '');
  const [by, setBy] = useState(usual);
  const setText = (typed: string) => {
    type(typed);
    if (!isKept) return;
    setAddress(typed.trim() === '' ? {} : { find: typed }, { replace: true });
  };
  // Typing is not held up by what was asked for the letters before.
  const asked = useDeferredValue(text);
  const ask = { text: asked, ...by };
  const list = useInfiniteQuery({
    queryKey: [...queryKey, ask],
    queryFn: ({ pageParam }) => page(ask, pageParam),
    initialPageParam: '',
    getNextPageParam: ({ next }) => next,
    placeholderData: keepPreviousData,
  });
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  const onMore = useCallback(() => {
    if (!isFetchingNextPage) void fetchNextPage();
  }, [isFetchingNextPage, fetchNextPage]);
  const paged: Paged = {
    ...by,
    onSort: (sort, order) => setBy({ sort: sort as Sort, order }),
    total: list.data?.pages[0]?.total ?? 0,
    hasMore: hasNextPage,
    onMore,
  };
  return {
    rows: list.data?.pages.flatMap(({ rows }) => rows) ?? null,
    error: list.error,
    text,
    setText,
    paged,
  };
}
