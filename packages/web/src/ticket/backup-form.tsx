import { useQuery } from '@tanstack/react-query';
import { routes, type PlanCost, type Ticket } from '@bright-cellar/contract';
import { formatBytesRange, totalOf, type Condition, type DeviceFacts } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { ButtonLink } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { Note, ProblemNote } from '../design/note.js';
import { useStart } from '../operation/use-start.js';
import { useArchivePassword } from '../password/archive-password.js';
import { PasswordChoice } from '../password/password-choice.js';
import { CostFigures } from '../plan/cost-figures.js';
import { usePlanCost, usePlannedScope } from '../plan/planned-scope.js';
import { ScopeChoice } from '../plan/scope-choice.js';
import { AcceptedConditions } from './accepted-conditions.js';
import { KnownArchiveForm } from './known-archive-form.js';
import { RackElevations } from './rack-elevations.js';
import { startBackup } from './start-backup.js';
import { useOntoAnother } from './onto-another.js';
import { startWords } from './start-words.js';

/** The next backup of a device: into its archive where that is there, else into a new one. */
export function BackupForm({ ticket }: { ticket: Ticket }) {
  const bench = useQuery(queries.bench()).data;
  const [isNew, setNew] = useState(false);
  const berth = bench?.berths.find((b) => b.device?.serial === ticket.device.serial);
  if (!berth?.device) return null;
  const { device, readiness } = berth;
  if (ticket.knownArchive && !isNew) {
    return (
      <KnownArchiveForm
        ticket={ticket}
        archive={ticket.knownArchive}
        device={device}
        readiness={readiness}
        onNew={() => setNew(true)}
      />
    );
  }
  return <NewArchiveForm ticket={ticket} device={device} readiness={readiness} />;
}

function freeAfter(cost: PlanCost | undefined, rackId: string): string | null {
  const found = cost?.racks.find((r) => r.rackId === rackId);
  return found ? formatBytesRange(found.freeAfterLow, found.freeAfterHigh) : null;
}

/** What is taken and how large it is, where it goes, and under which password: then it starts. */
function NewArchiveForm({
  ticket,
  device,
  readiness,
}: {
  ticket: Ticket;
  device: DeviceFacts;
  readiness: readonly Condition[];
}) {
  const { number } = ticket;
  const racks = useQuery(queries.racks()).data ?? [];
  const { scope, set: setScope, because } = usePlannedScope(number);
  const cost = usePlanCost(number, scope, device.contentRevision);
  const [rackId, setRackId] = useState<string | null>(null);
  const [accepted, setAccepted] = useState<readonly string[]>([]);
  const password = useArchivePassword(number, scope.encrypted);
  const another = useOntoAnother(device, scope.mode);
  // Nobody has to wait for the estimate: until it is there, the whole size must fit.
  const whole = totalOf(device.content ?? []).bytes;
  const fitting = racks.filter((rack) =>
    cost.data
      ? cost.data.racks.some((r) => r.rackId === rack.id && r.fits)
      : rack.present && rack.free - whole > rack.reserve,
  );
  const proposed = cost.data ? cost.data.proposal?.rackId : fitting[0]?.id;
  const chosen = fitting.find((r) => r.id === rackId)?.id ?? proposed ?? null;
  const body = {
    ...scope,
    ...password.body,
    accepted: [...accepted],
    rackId: chosen,
    archiveId: null,
  };
  const start = useStart(number, () => startBackup(number, body, another.onto), password.clear);
  return (
    <form
      noValidate
      aria-label="Take the backup"
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (password.ready && chosen && another.ready) start.mutate();
      }}
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <ScopeChoice device={device} scope={scope} onChange={setScope} />
        <ButtonLink to={`/tickets/${number}/plan`}>See and choose …</ButtonLink>
        {because && <p className="text-small text-soft">{because}</p>}
      </div>
      <CostFigures cost={cost} />
      <AcceptedConditions readiness={readiness} accepted={accepted} onChange={setAccepted} />
      <div className="grid grid-cols-1 items-start gap-6 lg:grid-cols-[auto_minmax(0,1fr)]">
        <div className="flex flex-col gap-2">
          <RackElevations
            racks={racks}
            fitting={fitting}
            adds={cost.data?.estimate.stored.likely ?? 0}
            after={(rack) => freeAfter(cost.data, rack.id)}
            chosen={chosen}
            onChoose={setRackId}
          />
          {cost.data && (
            <p className="max-w-84 text-small text-soft">
              {cost.data.proposal?.reason ?? 'No rack has room for this: make room, or take less.'}
              <br />
              As <span className="font-mono break-all">{cost.data.name}</span>
            </p>
          )}
        </div>
        <div className="flex flex-col gap-2">
          {scope.encrypted ? (
            <PasswordChoice
              ticket={number}
              device={`${device.familyName} ${device.model}`}
              value={password.value}
              set={password.set}
            />
          ) : (
            <>
              <Note>
                <strong>Not encrypted:</strong> whoever has the drive can read it, and what the
                device gives out only encrypted is not inside.
              </Note>
              <YesNo
                label="Encrypt it after all"
                checked={false}
                onChange={() => setScope({ encrypted: true })}
              />
            </>
          )}
        </div>
      </div>
      {another.field}
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      <div className="flex items-center gap-4">
        <MayButton
          permission={routes.startBackup.access}
          type="submit"
          look="main"
          disabled={!password.ready || !chosen || !another.ready}
          busy={start.isPending}
        >
          {startWords[scope.mode]}
          {another.words}
        </MayButton>
        {scope.encrypted && (
          <p className="text-small text-soft">
            A lost password cannot be recovered by anybody. It is proved by opening the backup with
            it.
          </p>
        )}
      </div>
    </form>
  );
}
