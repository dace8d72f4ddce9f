import {
  MutationCache,
  QueryCache,
  QueryClientProvider,
  type QueryClient,
} from '@tanstack/react-query';
import { Tooltip } from 'radix-ui';
import { lazy, Suspense, useState } from 'react';
import { ErrorBoundary } from 'react-error-boundary';
import { problemFrom } from '../api/call.js';
import { forgetShop, lockShop, queries } from '../api/queries.js';
import { ShopClient } from '../api/shop-client.js';
import { DeskPage } from '../desk/desk-page.js';
import { BrokenPage } from './broken-page.js';
import { Loading } from '../design/loading.js';

/** Fetched by itself, so that a customer's phone has no more to fetch than the customer's own page. */
const Shop = lazy(async () => ({ default: (await import('./shop.js')).Shop }));

/** The customer's own page is no part of the shop: it needs no session and shows nothing else. */
const deskToken = /^\/desk\/([\w-]+)$/.exec(window.location.pathname)?.[1];

export function App() {
  const [client] = useState(makeClient);
  return (
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={300}>
        <ErrorBoundary FallbackComponent={BrokenPage}>
          <Suspense fallback={<Loading what="Opening" />}>
            {deskToken ? <DeskPage token={deskToken} /> : <Shop />}
          </Suspense>
        </ErrorBoundary>
      </Tooltip.Provider>
    </QueryClientProvider>
  );
}

function makeClient(): QueryClient {
  // A session can end at any time, in another browser for one: then nothing of the shop stays on screen.
  const onError = (error: unknown) => {
    const { code } = problemFrom(error);
    if (code === 'not-signed-in') forgetShop(client);
    if (code === 'session-locked') lockShop(client);
    // The house rules ask for more since: the session says so.
    if (code === 'second-factor-missing')
      void client.invalidateQueries({ queryKey: queries.session().queryKey });
  };
  const client: QueryClient = new ShopClient({
    queryCache: new QueryCache({ onError }),
    mutationCache: new MutationCache({ onError }),
    defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 5_000 } },
  });
  return client;
}
