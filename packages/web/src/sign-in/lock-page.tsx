import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { Lock } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { useSignOut } from '../api/use-sign-out.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { focusAgain } from '../design/overlay.js';
import { Door } from './door.js';
import { TakeOver } from './take-over.js';

/**
 * Before a locked screen: whoever locked it comes back to what they left; somebody else takes the counter over. It lies over
 * everything, also over what was open over the page, and takes every key and press: nothing behind it is reached or closed.
 */
export function LockPage({ name }: { name: string }) {
  const stay = (event: Event) => event.preventDefault();
  // Where the focus was: there again, once what it was in is shown.
  const [left] = useState(() => document.activeElement);
  useEffect(() => () => void requestAnimationFrame(() => focusAgain(left)), [left]);
  return (
    <Dialog.Root open>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-0 z-50 overflow-y-auto bg-ground outline-none"
          onCloseAutoFocus={stay}
          onEscapeKeyDown={stay}
          onPointerDownOutside={stay}
          onInteractOutside={stay}
        >
          <title>Locked · Bright Cellar</title>
          <Door
            above={
              <div className="flex flex-col gap-4">
                <Dialog.Title className="flex items-center gap-3 text-title">
                  <Lock className="size-8" aria-hidden /> {name}
                </Dialog.Title>
                <p>
                  This screen is locked. What was typed is still there, and work on devices goes on.
                </p>
                <Unlock />
              </div>
            }
            below={<TakeOver />}
          />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Unlock() {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  // A PIN is digits only; a password that is so is refused as too weak.
  const isPin = /^\d{6,10}$/.test(typed);
  const unlock = useMutation({
    mutationFn: () =>
      call(routes.unlockSession, { body: isPin ? { pin: typed } : { password: typed } }),
    onSuccess: async (session) => {
      client.setQueryData(queries.session().queryKey, session);
      await client.invalidateQueries();
    },
    onError: () => setTyped(''),
  });
  const signOut = useSignOut();
  return (
    <>
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
    </>
  );
}
