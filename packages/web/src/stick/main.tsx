import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { readHere } from './reading.js';
import { StickPage } from './stick-page.js';
import '../main.css';

readHere();
// What is read here does not change, and nothing comes back by asking again.
const client = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, networkMode: 'always' } },
});
const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <main>
          <StickPage />
        </main>
      </QueryClientProvider>
    </StrictMode>,
  );
}
