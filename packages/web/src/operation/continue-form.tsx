import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type BodyOf, type Operation } from '@bright-cellar/contract';
import { definitionOf, formatBytes } from '@bright-cellar/core';
import type { ReactNode } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { ProblemNote } from '../design/note.js';
import { useKnownPassword } from '../password/known-password.js';

type Typed = BodyOf<typeof routes.continueOperation>;
const nothing: Typed = { fromDesk: false, password: '' };

/** Work that was cut off goes on from what it left behind, or is given up. */
export function ContinueForm({ operation }: { operation: Operation }) {
  return definitionOf(operation.kind).continues?.needsPassword ? (
    <WithPassword operation={operation} />
  ) : (
    <GoOn operation={operation} body={nothing} />
  );
}

function WithPassword({ operation }: { operation: Operation }) {
  const password = useKnownPassword(operation.ticketNumber ?? '', {
    action: 'continue',
    label: 'Password of the backup',
    hint: 'The one that it was started with.',
  });
  return (
    <GoOn operation={operation} body={password.body} ready={password.ready} onDone={password.clear}>
      {password.field}
    </GoOn>
  );
}

function GoOn({
  operation,
  body,
  ready = true,
  onDone,
  children,
}: {
  operation: Operation;
  body: Typed;
  ready?: boolean;
  /** What was typed is not needed any more. */
  onDone?: () => void;
  children?: ReactNode;
}) {
  const client = useQueryClient();
  const { name, continues } = definitionOf(operation.kind);
  const params = { id: operation.id };
  const placed = (changed: Operation) => {
    placeOperation(client, changed);
    onDone?.();
    return client.invalidateQueries({ queryKey: ['tickets'] });
  };
  const goOn = useMutation({
    mutationFn: () => call(routes.continueOperation, { params, body }),
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
      aria-label={`Let the ${name.toLowerCase()} go on`}
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready) goOn.mutate();
      }}
    >
      <p>
        <span className="font-semibold">{formatBytes(operation.keptBytes ?? 0)}</span>{' '}
        {continues?.left}
      </p>
      {children}
      {error && <ProblemNote problem={problemFrom(error)} />}
      <div className="flex gap-2">
        <MayButton
          permission={routes.continueOperation.access}
          type="submit"
          look="main"
          disabled={!ready}
          busy={goOn.isPending}
        >
          Let it go on
        </MayButton>
        <MayButton
          permission={routes.discardOperation.access}
          busy={giveUp.isPending}
          onClick={() => giveUp.mutate()}
        >
          {continues?.giveUp}
        </MayButton>
      </div>
    </form>
  );
}
