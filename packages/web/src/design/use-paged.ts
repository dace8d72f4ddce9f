import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { useCallback, useDeferredValue, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { ListAsk, PagedList } from '../api/queries.js';
import type { Paged } from './data-table.js';

const nowhere = new URLSearchParams();

/**
 * A list that is searched, sorted and paged by the server: as much of it as was looked at.
 * @param usual how it is sorted at first
 * @param isKept whether what is searched for, and by what it is sorted, stays in the address: it is there again on the way
 * back, and can be sent
 */
export function usePaged<Row, Sort extends string>(
  { queryKey, page }: PagedList<Row, Sort>,
  usual: Omit<ListAsk<NoInfer<Sort>>, 'text'>,
  { isKept = false } = {},
) {
  const [address, setAddress] = useSearchParams();
  const kept = isKept ? address : nowhere;
  const [text, type] = useState(kept.get('find') ?? '');
  const [by, setBy] = useState({
    sort: (kept.get('sort') as Sort | null) ?? usual.sort,
    order:
      kept.get('order') === 'asc' ? 'asc' : kept.get('order') === 'desc' ? 'desc' : usual.order,
  });
  /** Only what differs from how the list is at first stands in the address. */
  const keep = (now: ListAsk<Sort>) => {
    if (!isKept) return;
    const isUsual = now.sort === usual.sort && now.order === usual.order;
    setAddress(
      (before) => {
        const next = new URLSearchParams(before);
        for (const name of ['find', 'sort', 'order']) next.delete(name);
        if (now.text.trim() !== '') next.set('find', now.text);
        if (!isUsual) {
          next.set('sort', now.sort);
          next.set('order', now.order);
        }
        return next;
      },
      { replace: true },
    );
  };
  const show = ({ text: wanted, ...sorted }: ListAsk<Sort>) => {
    type(wanted);
    setBy(sorted);
    keep({ text: wanted, ...sorted });
  };
  const setText = (typed: string) => {
    type(typed);
    keep({ ...by, text: typed });
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
    onSort: (sort, order) => {
      const next = { sort: sort as Sort, order };
      setBy(next);
      keep({ ...next, text });
    },
    total: list.data?.pages[0]?.total ?? 0,
    hasMore: hasNextPage,
    onMore,
  };
  return {
    rows: list.data?.pages.flatMap(({ rows }) => rows) ?? null,
    error: list.error,
    readAs: list.data?.pages[0]?.readAs ?? '',
    /** What is looked at, and how; whether that is how the list is at first. */
    ask: { text, ...by },
    isUsual: text.trim() === '' && by.sort === usual.sort && by.order === usual.order,
    show,
    text,
    setText,
    paged,
  };
}
