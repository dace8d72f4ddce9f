import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Operation } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';
import { useKnownPassword } from '../password/known-password.js';

/** A backup that was cut off goes on from what is on the rack, or is given up. */
export function ContinueForm({ operation }: { operation: Operation }) {
  const client = useQueryClient();
  const password = useKnownPassword(operation.ticketNumber ?? '', {
    action: 'continue',
    label: 'Password of the backup',
    hint: 'The one that it was started with.',
  });
  const params = { id: operation.id };
  const placed = (changed: Operation) => {
    placeOperation(client, changed);
    password.clear();
    return client.invalidateQueries({ queryKey: ['tickets'] });
  };
  const goOn = useMutation({
    mutationFn: () => call(routes.continueOperation, { params, body: password.body }),
    onSuccess: placed,
  });
  const giveUp = useMutation({
    mutationFn: () => call(routes.discardOperation, { params }),
    onSuccess: placed,
  });
  const error = goOn.error ?? giveUp.error;
  return (
    <form
      noValidate
      aria-label="Let the backup go on"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (password.ready) goOn.mutate();
      }}
    >
      <p>
        <span className="font-semibold">{formatBytes(operation.keptBytes ?? 0)}</span> of it are
        safe on the rack and are not sent again.
      </p>
      {password.field}
      {error && <ProblemNote problem={problemFrom(error)} />}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={!password.ready} busy={goOn.isPending}>
          Let it go on
        </Button>
        <Button busy={giveUp.isPending} onClick={() => giveUp.mutate()}>
          Give it up and free the space
        </Button>
      </div>
    </form>
  );
}
