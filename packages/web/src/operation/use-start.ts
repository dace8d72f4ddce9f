import type { Operation } from '@bright-cellar/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { placeOperation, queries } from '../api/queries.js';

/**
 * Starts work on a ticket: it is on every screen at once, and the run sheet is asked for anew.
 * @param forget what was typed for it, which is not needed any more
 */
export function useStart(ticket: string, begin: () => Promise<Operation>, forget: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: begin,
    onSuccess: (operation) => {
      placeOperation(client, operation);
      forget();
      return client.invalidateQueries({ queryKey: queries.ticket(ticket).queryKey });
    },
  });
}
