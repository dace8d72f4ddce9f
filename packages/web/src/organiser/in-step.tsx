import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { organiserFilePath, routes, type PartnerTold } from '@bright-cellar/contract';
import {
  countOf,
  isOver,
  type DeviceFacts,
  type MergedKindTold,
  type OperationResult,
  syncDirections,
  syncedClasses,
  type SyncedKind,
  type SyncSetup,
} from '@bright-cellar/core';
import { useRef, useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { useSerialTail } from '../bench/serial-tail.js';
import { buttonShape } from '../design/button.js';
import { YesNo } from '../design/choice.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { MergeLedger } from './merge-ledger.js';
import { SamePersons } from './same-persons.js';
import { kindNames, SetUp } from './sync-setup.js';

/** Both sides: first what would become of everything, then, once nothing waits for a word, it is written. */
export function InStep({
  title,
  aside,
  ticket,
  device,
  partner,
  leave,
}: {
  title: string;
  aside: ReactNode;
  ticket: string;
  device: DeviceFacts;
  partner: PartnerTold;
  leave: ReactNode;
}) {
  const client = useQueryClient();
  const mayWrite = device.capabilities.takes?.changes === true;
  const directions = syncDirections.filter(
    (way) => (mayWrite || way === 'off-device') && (partner.mayWrite || way === 'onto-device'),
  );
  const way = { direction: directions[0] ?? 'both', rule: 'ask' as const, without: [] };
  const books = partner.books.filter(({ kind }) => isHeld(device, kind));
  const [setup, setSetup] = useState<SyncSetup>({
    // Memos only where somebody says so: few keep them in a calendar.
    books: books.filter(({ kind }) => kind !== 'notes').map(({ id, kind }) => ({ id, kind })),
    ways: { contacts: way, events: way, tasks: way, notes: way },
  });
  const serial = useSerialTail(device.serial);
  const top = useRef<HTMLDivElement>(null);
  const [removesMeant, setRemovesMeant] = useState(false);
  /** What was found out, or written, with which set-up. */
  const [begun, setBegun] = useState<{ id: string; of: SyncSetup } | null>(null);
  const start = useMutation({
    mutationFn: ({ serialTail, undoes = false }: { serialTail: string | null; undoes?: boolean }) =>
      call(routes.startSync, {
        params: { number: ticket },
        body: { deviceId: device.id, partner: partner.id, setup, serialTail, removesMeant, undoes },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      setBegun({ id: operation.id, of: setup });
      serial.clear();
      setRemovesMeant(false);
      // What comes of it stands at the head of a long page.
      top.current?.scrollIntoView();
    },
  });
  const operation = useQuery({
    ...queries.operation(begun?.id ?? ''),
    enabled: begun !== null,
  }).data;
  const isRunning = operation !== undefined && !isOver(operation.state);
  const result =
    begun?.of === setup && operation?.kind === 'sync' && operation.state === 'done'
      ? operation.result
      : null;
  const looked = result?.wrote === false ? result : null;
  /** Not what was taken back. */
  const isWritten = result?.wrote === true && result.kinds.length > 0;
  const mayTakeBack = isWritten && (partner.kind === 'server' || partner.kind === 'device');
  const [joined, setJoined] = useState(0);
  const steps = looked ? stepsOf(looked) + joined : 0;
  const mayWriteNow = mayTakeBack || (looked !== null && steps > 0);
  const goesTooFar = looked?.kinds.some(({ tooMuch }) => tooMuch.length > 0) ?? false;
  return (
    <Page title={title} aside={aside} now={nowOf(isRunning, result, steps)} calm={isRunning}>
      <div className="grid grid-cols-1 items-start gap-6 xl:grid-cols-[minmax(0,1fr)_21rem]">
        <div ref={top} className="flex min-w-0 scroll-mt-60 flex-col gap-6">
          {begun && (isRunning || operation?.problem != null || result?.wrote === true) && (
            <OperationPanel id={begun.id} />
          )}
          {isWritten && (partner.kind === 'server' || partner.kind === 'device') && (
            <ByItself ticket={ticket} partner={partner} />
          )}
          {isWritten && partner.kind === 'files' && (
            <SaveFiles partner={partner.id} kinds={result.kinds.map(({ kind }) => kind)} />
          )}
          {looked && mayJoin(setup) && hasContacts(looked) && (
            <SamePersons partner={partner.id} read={begun?.id ?? ''} onJoined={setJoined} />
          )}
          {looked?.kinds.map((told) => (
            <MergeLedger
              key={told.kind}
              partner={partner.id}
              other={partner.kind}
              kind={told.kind}
              read={begun?.id ?? ''}
              aside={told.aside}
            />
          ))}
          {!begun && (
            <p className="text-soft">
              Nothing was read yet. What would become of everything is shown here before anything is
              written.
            </p>
          )}
        </div>
        <div className="flex flex-col gap-5">
          <Section title="What is kept in step">
            <SetUp
              partner={partner}
              books={books}
              setup={setup}
              directions={directions}
              onChange={(next) => setSetup(next)}
            />
          </Section>
          {!isRunning && (
            <form
              noValidate
              aria-label="Bring into step"
              className="flex flex-col gap-3 border-t border-line pt-3"
              onSubmit={(event) => {
                event.preventDefault();
                const writes = looked !== null && steps > 0;
                if (!writes) start.mutate({ serialTail: null });
                else if (serial.isRight) start.mutate({ serialTail: serial.tail });
              }}
            >
              {mayWriteNow && serial.field}
              {goesTooFar && (
                <>
                  <Note>
                    More would be removed than anybody removes at once. Look at what goes.
                  </Note>
                  <YesNo
                    label="That much is meant to go"
                    checked={removesMeant}
                    onChange={setRemovesMeant}
                  />
                </>
              )}
              {start.error && <ProblemNote problem={problemFrom(start.error)} />}
              <div className="flex flex-wrap gap-2">
                {looked && steps > 0 ? (
                  <MayButton
                    permission="restore"
                    type="submit"
                    look="main"
                    disabled={!serial.isRight || (goesTooFar && !removesMeant)}
                    busy={start.isPending}
                  >
                    Write {countOf(steps, 'change')}
                  </MayButton>
                ) : (
                  <MayButton
                    permission="restore"
                    type="submit"
                    look="main"
                    disabled={setup.books.length === 0}
                    busy={start.isPending}
                  >
                    See what would change
                  </MayButton>
                )}
                {mayTakeBack && (
                  <MayButton
                    permission="restore"
                    type="button"
                    disabled={!serial.isRight}
                    busy={start.isPending}
                    onClick={() => start.mutate({ serialTail: serial.tail, undoes: true })}
                  >
                    Take it back
                  </MayButton>
                )}
              </div>
            </form>
          )}
          {!isRunning && <div>{leave}</div>}
        </div>
      </div>
    </Page>
  );
}

/** Off unless somebody asks for it: what one signs in with is kept for that, sealed. */
function ByItself({ ticket, partner: { id, kind } }: { ticket: string; partner: PartnerTold }) {
  const client = useQueryClient();
  const keep = useMutation({
    mutationFn: () =>
      call(routes.keepInStep, { params: { number: ticket }, body: { partner: id } }),
    onSuccess: (all) => client.setQueryData(queries.regularWork().queryKey, all),
  });
  return (
    <Section title="By itself">
      {keep.isSuccess ? (
        <p role="status">
          From now on it is brought into step whenever {kind === 'device' ? 'both are' : 'it is'}{' '}
          connected, until the ticket is closed. Where the two differ, it waits for a word here. It
          stands under{' '}
          <Link to="/regular" className="underline">
            Regular
          </Link>
          .
        </p>
      ) : (
        <>
          <p className="text-small">
            {kind === 'device'
              ? 'Whenever both are connected, until a ticket of theirs is closed.'
              : 'Whenever it is connected, until the ticket is closed. Their password is kept sealed for that.'}
          </p>
          {keep.error && <ProblemNote problem={problemFrom(keep.error)} />}
          <div>
            <MayButton
              permission={routes.keepInStep.access}
              busy={keep.isPending}
              onClick={() => keep.mutate()}
            >
              Keep it in step by itself
            </MayButton>
          </div>
        </>
      )}
    </Section>
  );
}

/** What was changed in files is nowhere until somebody saves it. */
function SaveFiles({ partner, kinds }: { partner: string; kinds: readonly SyncedKind[] }) {
  return (
    <Section title="Their files, as they are now">
      <p className="text-small">
        They are in memory only, for half an hour. Save them for the customer before you close them.
      </p>
      <div className="flex flex-wrap gap-2">
        {kinds.map((kind) => (
          <a
            key={kind}
            href={organiserFilePath(partner, kind)}
            download
            className={buttonShape('plain')}
          >
            Save the {kindNames[kind].toLowerCase()}
          </a>
        ))}
      </div>
    </Section>
  );
}

/** Whether the device has a place for it; one that takes nothing may have anything. */
const isHeld = ({ capabilities: { takes } }: DeviceFacts, kind: SyncedKind): boolean =>
  takes?.changes !== true || takes.items.some((item) => item.class === syncedClasses[kind]);
/** Where both are written, and all of each is known. */
const mayJoin = ({ ways: { contacts } }: SyncSetup): boolean =>
  contacts.direction === 'both' && contacts.without.length === 0;
const hasContacts = ({ kinds }: OperationResult<'sync'>): boolean =>
  kinds.some(({ kind }) => kind === 'contacts');
const sum = ({ add, change, remove }: MergedKindTold['device']) => add + change + remove;
/** With what was decided since, there may be more. */
const stepsOf = ({ kinds }: OperationResult<'sync'>): number =>
  kinds.reduce((all, { device, partner, open }) => all + sum(device) + sum(partner) + open, 0);

/** Nothing failed, and nothing waits for a word. */
const isAll = ({ failed, kinds }: OperationResult<'sync'>): boolean =>
  failed.length === 0 && kinds.every(({ open }) => open === 0);

function nowOf(isRunning: boolean, result: OperationResult<'sync'> | null, steps: number): string {
  if (isRunning) return 'Leave the device on its cable.';
  if (result?.wrote && !isAll(result))
    return 'Not all of it was taken or decided. See what would change once more.';
  if (result?.wrote)
    return result.kinds.length > 0
      ? 'Both are in step. Show the customer.'
      : 'Both are as they were. Show the customer.';
  if (!result) return 'Choose what is kept in step, and see what would change.';
  if (steps === 0) return 'Nothing: both are in step already.';
  return result.kinds.some(({ open }) => open > 0)
    ? 'Ask the customer where the two differ; then read the serial off the device, and write.'
    : 'Go through it with the customer; then read the serial off the device, and write.';
}
