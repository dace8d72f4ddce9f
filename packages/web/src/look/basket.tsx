import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Pick } from '@bright-cellar/contract';
import { X } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';
import { lookQueries } from './queries.js';
import { TakeOutForm } from './take-out-form.js';

/** What is in hand in a look-in; it stays there wherever somebody reads in it. */
export function useBasket(id: string) {
  const client = useQueryClient();
  const { queryKey } = lookQueries.basket(id);
  const basket = useQuery(lookQueries.basket(id)).data;
  const onSuccess = (next: NonNullable<typeof basket>) => client.setQueryData(queryKey, next);
  const pick = useMutation({
    mutationFn: (picks: Pick[]) => call(routes.pickInLook, { params: { id }, body: { picks } }),
    onSuccess,
  });
  const putBack = useMutation({
    mutationFn: (keys: string[]) => call(routes.putBackInLook, { params: { id }, body: { keys } }),
    onSuccess,
  });
  return { basket, pick, putBack };
}

/** Takes something in hand, or says that it is; pressed again it is put back. */
export function TakeInHand({
  id,
  pick,
  small = false,
  children,
}: {
  id: string;
  pick: Pick;
  /** One of many, in a margin. */
  small?: boolean;
  children: string;
}) {
  const { basket, pick: take, putBack } = useBasket(id);
  const key = JSON.stringify(pick);
  const isIn = basket?.picks.some((one) => one.key === key) ?? false;
  const press = () => (isIn ? putBack.mutate([key]) : take.mutate([pick]));
  if (small) {
    return (
      <button
        type="button"
        aria-pressed={isIn}
        onClick={press}
        className="block w-full text-right text-small underline aria-pressed:font-bold aria-pressed:text-ink"
      >
        {isIn ? 'In hand' : children}
      </button>
    );
  }
  return (
    <Button aria-pressed={isIn} busy={take.isPending || putBack.isPending} onClick={press}>
      {isIn ? 'In hand: put it back' : children}
    </Button>
  );
}

/** What is in hand, and the ways out of here. @param send to a device; nothing where there are none */
export function InHand({ id, send }: { id: string; send?: ReactNode }) {
  const { basket, putBack } = useBasket(id);
  const [isTaking, setTaking] = useState(false);
  const picks = basket?.picks ?? [];
  return (
    <section className="flex flex-col gap-2" aria-labelledby="in-hand">
      <h2 id="in-hand" className="text-large">
        In hand
      </h2>
      {picks.length === 0 ? (
        <p className="text-small text-soft">
          Nothing yet. What is read can be taken in hand, and then out.
        </p>
      ) : (
        <>
          <ul className="max-h-[24vh] overflow-y-auto border-t border-line" aria-label="In hand">
            {picks.map(({ key, words, count }) => (
              <li key={key} className="flex items-start gap-1 border-b border-line py-1">
                <span className="min-w-0 flex-1 text-small break-words">
                  {words}
                  {count !== 1 && <span className="text-soft"> {count.toLocaleString('en')}</span>}
                </span>
                <button
                  type="button"
                  aria-label={`Put back: ${words}`}
                  onClick={() => putBack.mutate([key])}
                  className="p-1 hover:bg-surface"
                >
                  <X className="size-4" aria-hidden />
                </button>
              </li>
            ))}
          </ul>
          <MayButton permission={routes.takeOut.access} look="main" onClick={() => setTaking(true)}>
            Take out …
          </MayButton>
          {send}
          <Button onClick={() => putBack.mutate([])}>Put all of it back</Button>
        </>
      )}
      {putBack.error && <ProblemNote problem={problemFrom(putBack.error)} />}
      {isTaking && <TakeOutForm id={id} onClose={() => setTaking(false)} />}
    </section>
  );
}
