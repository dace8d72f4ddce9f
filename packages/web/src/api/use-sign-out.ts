import { useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { call } from './call.js';
import { forgetShop } from './queries.js';

const WAITED_AT_MOST_MS = 1_000;

/**
 * Ends the session. What was asked just before is waited for: after it, it would be refused.
 * @param leave where to be then, before nothing of the shop is known any more
 */
export function useSignOut(leave?: () => unknown): () => Promise<void> {
  const client = useQueryClient();
  return async () => {
    const asked = client.getQueryCache().getAll();
    const waited = new Promise((resolve) => setTimeout(resolve, WAITED_AT_MOST_MS));
    await Promise.race([
      Promise.allSettled(asked.map(({ promise }) => Promise.resolve(promise))),
      waited,
    ]);
    await call(routes.signOut);
    await leave?.();
    forgetShop(client);
  };
}
