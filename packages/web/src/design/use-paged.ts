import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useCallback, useDeferredValue, useState } from 'react';
import type { ListAsk, PagedList } from '../api/queries.js';
import type { Paged } from './data-table.js';

/**
 * A list that is searched, sorted and paged by the server: as much of it as was looked at.
 * @param usual how it is sorted at first
 */
export function usePaged<Row, Sort extends string>(
  { queryKey, page }: PagedList<Row, Sort>,
  usual: Omit<ListAsk<NoInfer<Sort>>, 'text'>,
) {
  const [text, setText] = useState('');
  const [by, setBy] = useState(usual);
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
