import { useQuery } from '@tanstack/react-query';
import type { Berth, Ticket } from '@bright-cellar/contract';
import { isOver, type DeviceFacts } from '@bright-cellar/core';
import clsx from 'clsx';
import { useState, type ReactNode } from 'react';
import { useLocation } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { queries } from '../api/queries.js';
import { ProveForm } from '../archives/prove-form.js';
import { EraseOverlay } from '../counter/erase-overlay.js';
import { ButtonLink } from '../design/button.js';
import { StepMark } from '../design/mark.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { BackupForm } from '../ticket/backup-form.js';

type State = 'waiting' | 'ready' | 'running' | 'done';

/** A device that is in use becomes one that can take a backup: it is backed up, proven and erased, one after the other, here. */
export function PrepareTarget({ berth, device }: { berth: Berth; device: DeviceFacts }) {
  const { ticketNumber } = berth;
  const back = `${useLocation().pathname}?onto=${device.id}`;
  const ticket = useQuery({
    ...queries.ticket(ticketNumber ?? ''),
    enabled: ticketNumber !== null,
  }).data;
  const erase = useQuery(queries.eraseReadiness(device.id)).data;
  const running = useQuery(queries.operations()).data?.find(
    (one) =>
      !isOver(one.state) &&
      (one.deviceId === device.id || (ticketNumber !== null && one.ticketNumber === ticketNumber)),
  );
  const [isErasing, setErasing] = useState(false);
  const mayErase = erase?.allowed === true;
  const stepOf = (id: 'backup' | 'prove') => ticket?.runSheet.find((step) => step.id === id)?.state;
  const isRunning = (kind: string) => running?.kind === kind;
  const backedUp = mayErase || stepOf('backup') === 'done';
  const state = (isDone: boolean, kind: string, isNext: boolean): State =>
    isRunning(kind) ? 'running' : isDone ? 'done' : isNext ? 'ready' : 'waiting';
  const backup = state(backedUp, 'backup', true);
  const proof = state(mayErase, 'prove', backedUp);
  const erasing = state(false, 'erase', mayErase);
  return (
    <section
      aria-label="Prepare this device"
      className="mb-5 border border-line bg-surface px-5 py-4"
    >
      <h2 className="text-large">Prepare this device</h2>
      <p className="pb-2 text-small text-soft">
        It holds somebody’s things. They are backed up and proven before it is erased.
      </p>
      <ol className="flex flex-col">
        <Step number={1} title="Back it up" state={backup}>
          {ticketNumber === null && backup === 'ready' && (
            <ButtonLink
              look="main"
              to={`/tickets/new/${device.id}?back=${encodeURIComponent(back)}`}
            >
              Open a ticket for it
            </ButtonLink>
          )}
          {ticket && backup === 'ready' && <BackupForm ticket={ticket} />}
          {running && backup === 'running' && <OperationPanel id={running.id} />}
        </Step>
        <Step number={2} title="Prove it" state={proof}>
          {ticket && proof === 'ready' && <Prove ticket={ticket} />}
          {running && proof === 'running' && <OperationPanel id={running.id} />}
        </Step>
        <Step number={3} title="Erase it" state={erasing}>
          {erasing === 'ready' && (
            <MayButton permission="erase" look="danger" onClick={() => setErasing(true)}>
              Erase it …
            </MayButton>
          )}
          {running && erasing === 'running' && <OperationPanel id={running.id} />}
        </Step>
      </ol>
      {isErasing && <EraseOverlay deviceId={device.id} onClose={() => setErasing(false)} />}
    </section>
  );
}

function Step({
  number,
  title,
  state,
  children,
}: {
  number: number;
  title: string;
  state: State;
  children: ReactNode;
}) {
  return (
    <li
      aria-label={title}
      className={clsx(
        'flex flex-col gap-2 border-t border-line py-2',
        state === 'ready' && 'border-l-4 border-l-lamp pl-2',
      )}
    >
      <div className="flex items-center gap-2">
        <span className="text-soft">{number}</span>
        <span className="flex-1 font-semibold">{title}</span>
        <StepMark state={state} />
      </div>
      {children}
    </li>
  );
}

/** The newest backup of the device. */
function Prove({ ticket }: { ticket: Ticket }) {
  const [archiveId = ''] = ticket.archiveIds;
  const archive = useQuery({ ...queries.archive(archiveId), enabled: archiveId !== '' }).data;
  const [backup] = archive?.backups ?? [];
  return archive && backup ? (
    <ProveForm ticket={ticket.number} backupId={backup.id} reminder={archive.reminder} />
  ) : null;
}
