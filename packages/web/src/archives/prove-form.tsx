import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import type { ProofLevel } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Choice } from '../design/choice.js';
import { ProblemNote } from '../design/note.js';
import { useKnownPassword } from '../password/known-password.js';
import { levelChoices, levelCosts } from '../design/level-words.js';

/** Looks at a backup's archive as closely as chosen. A wrong password is said at once, and nothing else happens. */
export function ProveForm({
  ticket,
  backupId,
  reminder,
}: {
  /** Its number. */
  ticket: string;
  backupId: string;
  reminder: string;
}) {
  const client = useQueryClient();
  const [level, setLevel] = useState<ProofLevel>('full');
  const password = useKnownPassword(ticket, {
    action: 'proof',
    label: 'Password of the backup',
    reminder,
  });
  const needsPassword = level !== 'bytes';
  const prove = useMutation({
    mutationFn: () =>
      call(routes.startProve, {
        params: { id: backupId },
        body: { level, ...(needsPassword ? password.body : { fromDesk: false, password: '' }) },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      password.clear();
      return Promise.all([
        client.invalidateQueries({ queryKey: ['tickets'] }),
        client.invalidateQueries({ queryKey: ['archives'] }),
      ]);
    },
  });
  const ready = !needsPassword || password.ready;
  return (
    <form
      noValidate
      aria-label="Prove the backup"
      className="flex max-w-md flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready) prove.mutate();
      }}
    >
      <Choice
        label="How closely"
        hint={levelCosts[level]}
        value={level}
        options={levelChoices}
        onChange={setLevel}
      />
      {needsPassword && password.field}
      {prove.error && <ProblemNote problem={problemFrom(prove.error)} />}
      <div>
        <MayButton
          permission={routes.startProve.access}
          type="submit"
          look="main"
          disabled={!ready}
          busy={prove.isPending}
        >
          {level === 'full' ? 'Prove it' : 'Look at it'}
        </MayButton>
      </div>
    </form>
  );
}
