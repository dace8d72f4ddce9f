import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { Lock } from 'lucide-react';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { forgetShop, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { TakeOver } from './take-over.js';

/** Before a locked screen: whoever locked it comes back to what they left; somebody else takes the counter over. */
export function LockPage({ name }: { name: string }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  // A PIN is digits only; a password that is so is refused as too weak.
  const isPin = /^\d{6,10}$/.test(typed);
  const unlock = useMutation({
    mutationFn: () =>
      call(routes.unlockSession, {
        body: isPin ? { pin: typed } : { password: typed },
      }),
    onSuccess: async (session) => {
      client.setQueryData(queries.session().queryKey, session);
      await client.invalidateQueries();
    },
    onError: () => setTyped(''),
  });
  const signOut = async () => {
    await call(routes.signOut);
    forgetShop(client);
  };
  return (
    <main className="flex h-full flex-col">
      <title>Locked · Bright Cellar</title>
      <div className="flex flex-1 items-end justify-center pb-10">
        <div className="flex w-80 flex-col gap-4">
          <h1 className="flex items-center gap-3 text-title">
            <Lock className="size-8" aria-hidden /> {name}
          </h1>
          <p>This screen is locked. What was typed is still there, and work on devices goes on.</p>
          <form
            noValidate
            aria-label="Unlock"
            className="flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (typed !== '') unlock.mutate();
            }}
          >
            {unlock.error && <ProblemNote problem={problemFrom(unlock.error)} />}
            <TextField
              label="PIN or password"
              type="password"
              autoComplete="current-password"
              autoFocus
              value={typed}
              onChange={({ target }) => setTyped(target.value)}
            />
            <Button type="submit" look="main" busy={unlock.isPending}>
              Unlock
            </Button>
          </form>
          <Button onClick={() => void signOut()}>Sign out</Button>
        </div>
      </div>
      <div className="on-cellar flex h-2/5 justify-center border-t-8 border-edge bg-cellar pt-8 text-cellar-soft">
        <div className="w-80">
          <TakeOver />
        </div>
      </div>
    </main>
  );
}
