import { queryOptions } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { call } from '../api/call.js';

/** All that is read in one look-in, under one key: it is forgotten with it. */
export const lookKey = (id: string) => ['look', id] as const;

/** What is read stays as it is: a backup does not change. Not kept for anybody who does not look at it. */
const kept = { staleTime: Infinity, gcTime: 0 } as const;

export const lookQueries = {
  amounts: (id: string) =>
    queryOptions({
      queryKey: [...lookKey(id), 'amounts'],
      queryFn: () => call(routes.lookAmounts, { params: { id } }),
      // Until all of it was read there is more each time.
      refetchInterval: ({ state }) =>
        state.data && (!state.data.isAll || state.data.isDating) && !state.data.isCut ? 700 : false,
      retry: false,
      gcTime: 0,
    }),
  comparison: (id: string) =>
    queryOptions({
      queryKey: [...lookKey(id), 'comparison'],
      queryFn: () => call(routes.lookComparison, { params: { id } }),
      refetchInterval: ({ state }) =>
        state.data && (state.data.isDone || state.data.trouble !== null) ? false : 500,
      gcTime: 0,
    }),
  basket: (id: string) =>
    queryOptions({
      queryKey: [...lookKey(id), 'basket'],
      queryFn: () => call(routes.lookBasket, { params: { id } }),
      staleTime: Infinity,
      gcTime: 0,
    }),
  conversations: (id: string, text: string) =>
    queryOptions({
      queryKey: [...lookKey(id), 'conversations', text],
      queryFn: () => call(routes.lookConversations, { params: { id }, body: { text } }),
      ...kept,
    }),
  messages: (id: string, conversation: number, from: number) =>
    queryOptions({
      queryKey: [...lookKey(id), 'messages', conversation, from],
      queryFn: () =>
        call(routes.lookMessages, {
          params: { id, conversation: String(conversation) },
          query: { from: String(from) },
        }),
      ...kept,
    }),
  search: (id: string, text: string) =>
    queryOptions({
      queryKey: [...lookKey(id), 'search', text],
      queryFn: async () => {
        const body = { text, within: null };
        const [said, shelves] = await Promise.all([
          call(routes.searchLookIn, { params: { id }, body }),
          call(routes.searchShelves, { params: { id }, body: { text } }),
        ]);
        return { said, shelves };
      },
      enabled: text.trim() !== '',
      ...kept,
    }),
};
