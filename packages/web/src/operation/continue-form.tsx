import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Operation } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';
import { PasswordField } from '../password/password-field.js';

/** A backup that was cut off goes on from what is on the rack, or is given up. */
export function ContinueForm({ operation }: { operation: Operation }) {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const params = { id: operation.id };
  const settled = (changed: Operation) => {
    placeOperation(client, changed);
    setPassword('');
    return client.invalidateQueries({ queryKey: ['tickets'] });
  };
  const goOn = useMutation({
    mutationFn: () => call(routes.continueOperation, { params, body: { password } }),
    onSuccess: settled,
  });
  const giveUp = useMutation({
    mutationFn: () => call(routes.discardOperation, { params }),
    onSuccess: settled,
  });
  const error = goOn.error ?? giveUp.error;
  return (
    <form
      noValidate
      aria-label="Let the backup go on"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (password) goOn.mutate();
      }}
    >
      <p>
        <span className="font-semibold">{formatBytes(operation.keptBytes ?? 0)}</span> of it are
        safe on the rack and are not sent again.
      </p>
      <PasswordField
        label="Password of the backup"
        className="max-w-sm"
        hint="The one that it was started with."
        value={password}
        onChange={setPassword}
      />
      {error && <ProblemNote problem={problemFrom(error)} />}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={password === ''} busy={goOn.isPending}>
          Let it go on
        </Button>
        <Button busy={giveUp.isPending} onClick={() => giveUp.mutate()}>
          Give it up and free the space
        </Button>
      </div>
    </form>
  );
}
