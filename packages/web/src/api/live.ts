import { useQuery, useQueryClient, type QueryKey } from '@tanstack/react-query';
import { EVENTS_PATH, liveEventSchema, type Change } from '@bright-cellar/contract';
import { useEffect, useState } from 'react';
import { forgetShop, placeBench, placeTold, queries } from './queries.js';

const SILENCE_MS = 25_000;

/** Keeps everything on screen as it is on the server. @returns false while the connection is lost. */
export function useLive(): boolean {
  const client = useQueryClient();
  const [connected, setConnected] = useState(true);
  // A locked screen is told nothing; what changed meanwhile is read again once it is open.
  const isLocked = useQuery(queries.session()).data?.locked === true;
  useEffect(() => {
    if (isLocked) return;
    const source = new EventSource(EVENTS_PATH);
    let silence = setTimeout(() => undefined, 0);
    let lost = false;
    const lose = () => {
      lost = true;
      setConnected(false);
    };
    const heard = () => {
      clearTimeout(silence);
      silence = setTimeout(lose, SILENCE_MS);
      if (!lost) return;
      lost = false;
      setConnected(true);
      // What changed meanwhile is told when it is listened to again; how far work is, is not.
      void client.invalidateQueries({ queryKey: queries.operations().queryKey });
      void client.invalidateQueries({ queryKey: ['operation'] });
    };
    source.onopen = heard;
    source.onerror = () => {
      lose();
      // The browser tries again by itself; if it is because nobody is signed in, that ends here.
      void client.refetchQueries({ queryKey: queries.session().queryKey });
    };
    source.onmessage = (message: MessageEvent<string>) => {
      heard();
      const event = liveEventSchema.parse(JSON.parse(message.data));
      switch (event.type) {
        case 'bench':
          placeBench(client, event.bench);
          // What was judged of a device that left is asked no more: there is nobody to ask.
          for (const { device } of event.bench.berths) {
            if (device === null) continue;
            void client.invalidateQueries({
              queryKey: ['bench'],
              predicate: ({ queryKey }) => queryKey.length > 1 && queryKey.at(-1) === device.id,
            });
          }
          break;
        case 'operation':
          placeTold(client, event.operation);
          break;
        case 'changed':
          for (const queryKey of event.changes.flatMap(shownIn))
            void client.invalidateQueries({ queryKey });
          break;
        case 'everything':
          void client.invalidateQueries();
          break;
        case 'signed-out':
          forgetShop(client);
          break;
        case 'alive':
          break;
      }
    };
    return () => {
      clearTimeout(silence);
      source.close();
    };
  }, [client, isLocked]);
  return connected;
}

/** What on screen shows a thing that changed. */
const keysOf: Record<Change['subject'], (ref: string) => QueryKey[]> = {
  ticket: (number) => [
    queries.tickets().queryKey,
    ...(number === '' ? [] : [queries.ticket(number).queryKey]),
  ],
  archive: (id) => [
    queries.archives().queryKey,
    queries.due().queryKey,
    queries.care().queryKey,
    ...(id === '' ? [] : [queries.archive(id).queryKey]),
  ],
  rack: () => [queries.racks().queryKey],
  // Each is told by itself, as it is.
  operation: () => [],
  schedule: () => [queries.regularWork().queryKey],
  settings: () => [queries.settings().queryKey, queries.care().queryKey],
  care: () => [queries.care().queryKey],
  escrow: () => [queries.escrow().queryKey],
  'look-in': () => [queries.lookIns().queryKey],
  account: () => [queries.account().queryKey, queries.session().queryKey],
};
const shownIn = ({ subject, ref }: Change): QueryKey[] => keysOf[subject](ref);
