import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Ticket } from '@bright-cellar/contract';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';

type Step = Ticket['runSheet'][number];

function useSettle(step: Step, ticket: Ticket) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { state: 'done' | 'skipped' | 'open'; reason: string }) =>
      call(routes.settleStep, { params: { number: ticket.number, step: step.id }, body }),
    onSuccess: (changed) => client.setQueryData(queries.ticket(ticket.number).queryKey, changed),
  });
}

/** A step that no device can tell about: a person says that it is done, with what they found. */
export function SayDone({ step, ticket }: { step: Step; ticket: Ticket }) {
  const settle = useSettle(step, ticket);
  const [found, setFound] = useState('');
  return (
    <form
      noValidate
      aria-label={step.title}
      className="flex flex-col items-start gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        settle.mutate({ state: 'done', reason: found.trim() });
      }}
    >
      <TextField
        label="What was found"
        className="w-full max-w-md"
        placeholder="may stay empty"
        value={found}
        maxLength={300}
        onChange={(event) => setFound(event.target.value)}
      />
      {settle.error && <ProblemNote problem={problemFrom(settle.error)} />}
      <MayButton
        permission={routes.settleStep.access}
        type="submit"
        look="main"
        busy={settle.isPending}
      >
        {step.title}: done
      </MayButton>
    </form>
  );
}

/** Skipping a step with a reason, where its rules allow that, or taking somebody's word back. */
export function SettledWord({ step, ticket }: { step: Step; ticket: Ticket }) {
  const settle = useSettle(step, ticket);
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState('');
  const said =
    step.state === 'skipped' ||
    (step.state === 'done' && ['repair', 'check', 'hand-over'].includes(step.id));
  return (
    <>
      {settle.error && !asking && <ProblemNote problem={problemFrom(settle.error)} />}
      {step.skippable && (
        <button
          type="button"
          className="self-start text-small underline"
          onClick={() => setAsking(true)}
        >
          Skip this step …<span className="sr-only"> {step.title}</span>
        </button>
      )}
      {said && (
        <button
          type="button"
          className="self-start text-small underline"
          onClick={() => settle.mutate({ state: 'open', reason: '' })}
        >
          Open it again<span className="sr-only"> {step.title}</span>
        </button>
      )}
      {asking && (
        <OverlayForm
          permission={routes.settleStep.access}
          title={`Skip “${step.title}”`}
          description="It stays on record who skipped it, and why."
          action="Skip it"
          ready={reason.trim() !== ''}
          work={{
            ...settle,
            mutate: () =>
              settle.mutate(
                { state: 'skipped', reason: reason.trim() },
                { onSuccess: () => setAsking(false) },
              ),
          }}
          onClose={() => setAsking(false)}
        >
          <TextField
            label="Reason"
            value={reason}
            maxLength={300}
            onChange={(event) => setReason(event.target.value)}
          />
        </OverlayForm>
      )}
    </>
  );
}
