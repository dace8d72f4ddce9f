import { useQueryClient } from '@tanstack/react-query';
import { EVENTS_PATH, liveEventSchema } from '@bright-cellar/contract';
import { useEffect, useState } from 'react';
import { forgetShop, placeOperation, queries } from './queries.js';

const SILENCE_MS = 25_000;

/** Keeps everything on screen as it is on the server. @returns false while the connection is lost. */
export function useLive(): boolean {
  const client = useQueryClient();
  const [connected, setConnected] = useState(true);
  useEffect(() => {
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
      // What happened meanwhile was not told: read everything again.
      void client.invalidateQueries();
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
          client.setQueryData(queries.bench().queryKey, event.bench);
          void client.invalidateQueries({ queryKey: ['bench', 'target'] });
          void client.invalidateQueries({ queryKey: ['bench', 'erase'] });
          break;
        case 'operation':
          placeOperation(client, event.operation);
          if (event.operation.state !== 'running')
            void client.invalidateQueries({ queryKey: ['tickets'] });
          break;
        case 'changed':
          void client.invalidateQueries({ queryKey: [event.topic] });
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
  }, [client]);
  return connected;
}
