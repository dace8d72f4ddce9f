import { useMutation } from '@tanstack/react-query';
import { routes, type FurtherCost, type Ticket } from '@bright-cellar/contract';
import {
  countOf,
  formatBytes,
  formatBytesRange,
  formatDurationRange,
  type Condition,
  type DeviceFacts,
} from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { dateTime } from '../design/dates.js';
import { Button, ButtonLink } from '../design/button.js';
import { Figure } from '../design/figures.js';
import { Note, ProblemNote } from '../design/note.js';
import { useStart } from '../operation/use-start.js';
import { useKnownPassword } from '../password/known-password.js';
import { usePlannedScope } from '../plan/planned-scope.js';
import { ScopeChoice } from '../plan/scope-choice.js';
import { AcceptedConditions } from './accepted-conditions.js';
import { startBackup } from './start-backup.js';
import { useOntoAnother } from './onto-another.js';
import { startWords } from './start-words.js';

/** The next backup of a device whose archive is there: only what changed is sent. */
export function KnownArchiveForm({
  ticket,
  archive,
  device,
  readiness,
  onNew,
}: {
  ticket: Ticket;
  archive: NonNullable<Ticket['knownArchive']>;
  device: DeviceFacts;
  readiness: readonly Condition[];
  onNew: () => void;
}) {
  const password = useKnownPassword(ticket.number, {
    action: 'further',
    label: 'Password of the archive',
    reminder: archive.reminder,
  });
  const [accepted, setAccepted] = useState<readonly string[]>([]);
  const { scope, set } = usePlannedScope(ticket.number);
  const another = useOntoAnother(device, scope.mode);
  const cost = useMutation({
    mutationFn: () =>
      call(routes.furtherCost, {
        params: { number: ticket.number },
        body: { ...scope, archiveId: archive.id, ...password.body },
      }),
  });
  const start = useStart(
    ticket.number,
    () =>
      startBackup(
        ticket.number,
        {
          ...scope,
          ...password.body,
          accepted: [...accepted],
          rackId: null,
          archiveId: archive.id,
          passwordHolder: 'customer',
          reminder: '',
        },
        another.onto,
      ),
    password.clear,
  );
  const error = cost.error ?? start.error;
  return (
    <form
      noValidate
      aria-label="Take the backup"
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (password.ready && another.ready) start.mutate();
      }}
    >
      <div>
        <h3>Into its archive on {archive.rackName}</h3>
        <p>
          Last backup {dateTime(archive.takenAt)}. What has not changed since is kept once and is
          not sent again.
        </p>
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <ScopeChoice
          device={device}
          scope={scope}
          onChange={(change) => {
            set(change);
            cost.reset();
          }}
        />
        <ButtonLink to={`/tickets/${ticket.number}/plan`}>See and choose …</ButtonLink>
      </div>
      <AcceptedConditions readiness={readiness} accepted={accepted} onChange={setAccepted} />
      {password.field}
      {another.field}
      {cost.data && <FurtherFigures cost={cost.data} />}
      {error && <ProblemNote problem={problemFrom(error)} />}
      <div className="flex flex-wrap items-center gap-2">
        <MayButton
          permission={routes.startBackup.access}
          type="submit"
          look="main"
          disabled={!password.ready || !another.ready}
          busy={start.isPending}
        >
          {startWords[scope.mode]}
          {another.words}
        </MayButton>
        <Button disabled={!password.ready} busy={cost.isPending} onClick={() => cost.mutate()}>
          Show what will be sent
        </Button>
        <Button onClick={onNew}>Begin a new archive instead</Button>
      </div>
    </form>
  );
}

/** What is new on the device, how much room that takes on the archive's rack, and how long it lasts. */
function FurtherFigures({ cost }: { cost: FurtherCost }) {
  const { toSend, same, estimate, rackName, fits } = cost;
  return (
    <div role="status" className="flex flex-col gap-2">
      <div className="flex flex-wrap gap-x-8 gap-y-2">
        <Figure value={formatBytes(toSend.bytes)} of={`in ${countOf(toSend.items, 'item')}`}>
          Will be sent
        </Figure>
        <Figure value={formatBytes(same.bytes)} of={`in ${countOf(same.items, 'item')}`}>
          In the archive already
        </Figure>
        <Figure
          value={formatBytesRange(estimate.stored.low, estimate.stored.high)}
          of="four times out of five"
        >
          On the rack
        </Figure>
        <Figure value={formatDurationRange(estimate.ms.low, estimate.ms.high)}>Time</Figure>
        <Figure
          value={formatBytesRange(cost.freeAfterLow, cost.freeAfterHigh)}
          of={`on ${rackName}`}
        >
          Free after it
        </Figure>
      </div>
      {!fits && (
        <Note>
          <strong>{rackName} has no room for it:</strong> make room there, take less, or begin a new
          archive on another rack.
        </Note>
      )}
    </div>
  );
}
