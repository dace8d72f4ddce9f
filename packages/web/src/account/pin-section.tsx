import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { pinProblem } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** A short PIN: unlocks one’s own screen, and takes the counter over where somebody signed in in full today. */
export function PinSection({ hasPin }: { hasPin: boolean }) {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const [pin, setPin] = useState('');
  const set = useMutation({
    mutationFn: (wanted: string) => call(routes.setPin, { body: { password, pin: wanted } }),
    onSuccess: (now) => {
      client.setQueryData(queries.account().queryKey, now);
      setPassword('');
      setPin('');
    },
  });
  const problem = pin === '' ? null : pinProblem(pin);
  return (
    <Section title="Your PIN at the counter">
      <form
        noValidate
        className="flex max-w-md flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (pin !== '' && problem === null) set.mutate(pin);
        }}
      >
        <p>
          {hasPin
            ? 'You have one. It unlocks your screen, and takes the counter over on a computer on which somebody signed in in full that day.'
            : 'With one you unlock your screen quickly, and take the counter over on a computer on which somebody signed in in full that day.'}
        </p>
        <TextField
          label="Present password, for the PIN"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={({ target }) => setPassword(target.value)}
        />
        <TextField
          label="PIN"
          type="password"
          inputMode="numeric"
          autoComplete="off"
          maxLength={10}
          value={pin}
          error={problem ?? undefined}
          hint="Six to ten digits. Five wrong ones, and it opens nothing until you sign in with your password."
          onChange={({ target }) => setPin(target.value)}
        />
        {set.error && <ProblemNote problem={problemFrom(set.error)} />}
        {set.isSuccess && (
          <Note tone="proven">{hasPin ? 'It holds from now on.' : 'There is none any more.'}</Note>
        )}
        <div className="flex gap-2">
          <Button
            type="submit"
            busy={set.isPending}
            disabled={password === '' || pin === '' || problem !== null}
          >
            {hasPin ? 'Change the PIN' : 'Use this PIN'}
          </Button>
          {hasPin && (
            <Button disabled={password === ''} onClick={() => set.mutate('')}>
              Have none
            </Button>
          )}
        </div>
      </form>
    </Section>
  );
}
