import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Session } from '@bright-cellar/contract';
import { useState } from 'react';
import { call, problemFrom, rememberCsrfToken } from '../api/call.js';
import { forgetShop, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';

/** Shows the shop to somebody who was let in, and nothing of whoever was there before. */
export function useLetIn(): (session: Session) => void {
  const client = useQueryClient();
  return (session) => {
    forgetShop(client);
    rememberCsrfToken(session.csrfToken);
    client.setQueryData(queries.session().queryKey, session);
  };
}

/** A quick change of who stands here, with a PIN: only where somebody signed in in full today, and only for whoever has one. */
export function TakeOver() {
  const people = useQuery(queries.atThisCounter()).data ?? [];
  const [who, setWho] = useState('');
  const [pin, setPin] = useState('');
  const onSuccess = useLetIn();
  const take = useMutation({
    mutationFn: () => call(routes.takeOver, { body: { technicianId: who, pin } }),
    onSuccess,
    onError: () => setPin(''),
  });
  if (people.length === 0) {
    return (
      <p>
        Upstairs the bench and its tickets. Down here what is kept, where it lies, and how safe it
        is.
      </p>
    );
  }
  return (
    <form
      noValidate
      aria-label="Take the counter over"
      className="flex flex-col gap-3 text-cellar-ink"
      onSubmit={(event) => {
        event.preventDefault();
        if (who !== '' && pin !== '') take.mutate();
      }}
    >
      {take.error && <ProblemNote problem={problemFrom(take.error)} />}
      <Choice
        label="Take the counter over"
        placeholder="Who"
        value={who}
        options={Object.fromEntries(people.map(({ id, name }) => [id, name]))}
        onChange={setWho}
      />
      <TextField
        label="PIN"
        type="password"
        inputMode="numeric"
        autoComplete="off"
        maxLength={10}
        value={pin}
        onChange={({ target }) => setPin(target.value)}
      />
      <Button type="submit" busy={take.isPending}>
        Take over
      </Button>
    </form>
  );
}
