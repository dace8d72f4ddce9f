import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type ProofLevel } from '@bright-cellar/contract';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { ProblemNote } from '../design/note.js';
import { PasswordField } from '../password/password-field.js';
import { levelChoices, levelCosts } from './level-words.js';

/** Looks at a backup's archive as closely as chosen. A wrong password is said at once, and nothing else happens. */
export function ProveForm({ backupId, reminder }: { backupId: string; reminder: string }) {
  const client = useQueryClient();
  const [level, setLevel] = useState<ProofLevel>('full');
  const [typed, setTyped] = useState('');
  const needsPassword = level !== 'bytes';
  const password = needsPassword ? typed : '';
  const prove = useMutation({
    mutationFn: () =>
      call(routes.startProof, { params: { id: backupId }, body: { level, password } }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      setTyped('');
      return Promise.all([
        client.invalidateQueries({ queryKey: ['tickets'] }),
        client.invalidateQueries({ queryKey: ['archives'] }),
      ]);
    },
  });
  const ready = !needsPassword || password !== '';
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
      {needsPassword && (
        <PasswordField
          label="Password of the backup"
          reminder={reminder}
          value={typed}
          onChange={setTyped}
        />
      )}
      {prove.error && <ProblemNote problem={problemFrom(prove.error)} />}
      <div>
        <Button type="submit" look="main" disabled={!ready} busy={prove.isPending}>
          {level === 'full' ? 'Prove it' : 'Look at it'}
        </Button>
      </div>
    </form>
  );
}
