import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Operation } from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';
import { useKnownPassword } from '../password/known-password.js';

/** Tries only what failed again: a further backup of the same archive, in which everything else is there already. */
export function RetryFailed({ operation }: { operation: Operation }) {
  const client = useQueryClient();
  const password = useKnownPassword(operation.ticketNumber ?? '', {
    action: 'further',
    label: 'Its password',
  });
  const [asking, setAsking] = useState(false);
  const retry = useMutation({
    mutationFn: () =>
      call(routes.retryFailed, { params: { id: operation.id }, body: password.body }),
    onSuccess: (started) => {
      placeOperation(client, started);
      password.clear();
      return client.invalidateQueries({ queryKey: ['tickets'] });
    },
  });
  const what = countOf(operation.retryable, 'failed item');
  if (!asking) {
    return (
      <div>
        <Button onClick={() => setAsking(true)}>Try the {what} again</Button>
      </div>
    );
  }
  return (
    <form
      noValidate
      aria-label="Try failed items again"
      className="flex max-w-sm flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (password.ready) retry.mutate();
      }}
    >
      {password.field}
      {retry.error && <ProblemNote problem={problemFrom(retry.error)} />}
      <div>
        <MayButton
          permission={routes.retryFailed.access}
          type="submit"
          look="main"
          disabled={!password.ready}
          busy={retry.isPending}
        >
          Try the {what} again
        </MayButton>
      </div>
    </form>
  );
}
