import { useQuery } from '@tanstack/react-query';
import type { Ticket } from '@bright-cellar/contract';
import type { OperationKind } from '@bright-cellar/core';
import clsx from 'clsx';
import type { ReactNode } from 'react';
import { queries } from '../api/queries.js';
import { StepMark } from '../design/mark.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { ProveForm } from '../archives/prove-form.js';
import { AgreeStep } from './agree-step.js';
import { BackupForm } from './backup-form.js';
import { CheckCounts } from './check-counts.js';
import { ConnectStep } from './connect-step.js';
import { RecoveredForm } from './recovered-form.js';
import { RestoreStep } from './restore-step.js';
import { SettlingList } from './settling-list.js';
import { SayDone, SettledWord } from './settle-step.js';

type Step = Ticket['runSheet'][number];

/** A ticket's steps, filling with evidence. What is over takes one line; what can be done now is open. */
export function RunSheet({ ticket }: { ticket: Ticket }) {
  return (
    <ol aria-label="Run sheet" className="border border-line bg-surface">
      {ticket.runSheet.map((step, i) => (
        <li
          key={step.id}
          aria-label={step.title}
          className={clsx(
            'flex gap-3 border-b border-l-8 border-b-line py-2.5 pr-4 last:border-b-0',
            step.state === 'ready' ? 'border-l-lamp' : 'border-l-transparent',
          )}
        >
          <span className="w-7 shrink-0 text-right font-mono text-large font-bold text-soft">
            {i + 1}
          </span>
          <div className="flex min-w-0 flex-1 flex-col gap-2">
            <div className="flex flex-wrap items-baseline gap-x-4">
              <h2 className="text-large whitespace-nowrap">{step.title}</h2>
              <p className="min-w-48 flex-1 text-soft">
                {step.evidence.join(' ')}
                {(step.state === 'waiting' || step.state === 'skipped') && step.sentence}
              </p>
              <StepMark state={step.state} />
            </div>
            {/* The current step's sentence stands at the top of the page already. */}
            {step.sentence !== null &&
              step.sentence !== ticket.step?.sentence &&
              step.state !== 'waiting' &&
              step.state !== 'skipped' && <p className="font-semibold">{step.sentence}</p>}
            <StepWork step={step} ticket={ticket} />
            <SettledWord step={step} ticket={ticket} />
          </div>
        </li>
      ))}
    </ol>
  );
}

function StepWork({ step, ticket }: { step: Step; ticket: Ticket }): ReactNode {
  switch (step.id) {
    case 'agree':
      return <AgreeStep ticket={ticket} open={step.state === 'blocked'} />;
    case 'connect':
      return <ConnectStep ticket={ticket} open={step.state !== 'done'} />;
    case 'backup':
      return (
        <>
          <LastOperation ticket={ticket} kind="backup" />
          <NextBackup step={step} ticket={ticket} />
        </>
      );
    case 'prove':
      return <ProveStep step={step} ticket={ticket} />;
    case 'restore':
      return (
        <>
          <LastOperation ticket={ticket} kind="restore" or="cross" />
          <RestoreStep step={step} ticket={ticket} />
        </>
      );
    case 'check':
      return (
        step.state === 'ready' && (
          <>
            <SettlingList steps={ticket.settling} />
            <CheckCounts ticket={ticket} />
            <SayDone step={step} ticket={ticket} />
          </>
        )
      );
    case 'repair':
    case 'hand-over':
      return step.state === 'ready' && <SayDone step={step} ticket={ticket} />;
  }
}

/** A first backup, or another one because the device changed since; not while one that was cut off can go on. */
function NextBackup({ step, ticket }: { step: Step; ticket: Ticket }) {
  const last = ticket.operations.find((o) => o.kind === 'backup');
  const lastNow = useQuery({ ...queries.operation(last?.id ?? ''), enabled: last !== undefined });
  if (last && (lastNow.isPending || lastNow.data?.keptBytes != null)) return null;
  const changedSince = step.state === 'done' && step.sentence !== null;
  if (step.state !== 'ready' && !changedSince) return null;
  return ticket.reason === 'recovered' && ticket.berth === null ? (
    <RecoveredForm ticket={ticket} />
  ) : (
    <BackupForm ticket={ticket} />
  );
}

/** The newest operation of a kind, or of another that stands for it: running, or how it ended. */
function LastOperation({
  ticket,
  kind,
  or = kind,
}: {
  ticket: Ticket;
  kind: 'backup' | 'prove' | 'restore';
  or?: OperationKind;
}) {
  const last = ticket.operations.find((o) => o.kind === kind || o.kind === or);
  return last ? <OperationPanel id={last.id} /> : null;
}

function ProveStep({ step, ticket }: { step: Step; ticket: Ticket }) {
  const archiveId = ticket.archiveIds[0];
  const archive = useQuery({
    ...queries.archive(archiveId ?? ''),
    enabled: archiveId !== undefined,
  }).data;
  const backup = archive?.backups[0];
  return (
    <>
      <LastOperation ticket={ticket} kind="prove" />
      {backup && (step.state === 'ready' || step.state === 'blocked') && (
        <ProveForm ticket={ticket.number} backupId={backup.id} reminder={archive.reminder} />
      )}
    </>
  );
}
