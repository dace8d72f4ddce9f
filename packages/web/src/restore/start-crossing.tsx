import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Backup, type Berth } from '@bright-cellar/contract';
import {
  choiceOfClasses,
  goesOver,
  losesSomething,
  type CrossingReport,
  type DataClass,
  type DaySpan,
  type LeaveOut,
  type Sparable,
} from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { useSerialTail } from '../bench/serial-tail.js';
import { YesNo } from '../design/choice.js';
import { isBackwards } from '../design/days-fields.js';
import { Note, ProblemNote } from '../design/note.js';
import { useKnownPassword } from '../password/known-password.js';

/** What of a backup shall go over. */
export interface Part {
  classes: ReadonlySet<DataClass>;
  days: DaySpan;
  /** Files that stay by a rule. */
  without: LeaveOut;
  /** Only what is in hand there. */
  lookIn: string | null;
}

/** A loss report, by the operation that made it. */
export interface Foreseen {
  id: string;
  report: CrossingReport;
  sparable: Sparable;
}

/** First what would arrive is found out; then, once the customer knows, it is sent. The password is typed once for both. */
export function StartCrossing({
  backup,
  archive,
  berth,
  part,
  foreseen,
  onForesee,
  onStarted,
}: {
  backup: Pick<Backup, 'id'>;
  archive: Pick<Archive, 'ticketNumber' | 'reminder'>;
  berth: Berth;
  part: Part;
  /** Null while nobody knows what would arrive. */
  foreseen: Foreseen | null;
  onForesee: (id: string) => void;
  onStarted: (id: string) => void;
}) {
  const client = useQueryClient();
  const serial = useSerialTail(berth.device?.serial ?? null);
  const [customerKnows, setCustomerKnows] = useState(false);
  const password = useKnownPassword(archive.ticketNumber, {
    action: 'restore',
    label: 'Password of the backup',
    reminder: archive.reminder,
    hint: 'It stays in this field until it was sent, or you leave.',
  });
  const { device } = berth;
  const params = { id: backup.id };
  const foresee = useMutation({
    mutationFn: () =>
      call(routes.startForesee, {
        params,
        body: {
          ...{ deviceId: device?.id ?? '', choice: choiceOfClasses(part.classes) },
          ...{ days: part.days, without: part.without, lookIn: part.lookIn, ...password.body },
        },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      setCustomerKnows(false);
      onForesee(operation.id);
    },
  });
  const send = useMutation({
    mutationFn: () =>
      call(routes.startCross, {
        params,
        body: {
          ...{ deviceId: device?.id ?? '', serialTail: serial.tail, foreseen: foreseen?.id ?? '' },
          ...{ customerKnows, ...password.body },
        },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      password.clear();
      onStarted(operation.id);
    },
  });
  if (!device) return null;
  const isEmpty = part.lookIn === null && part.classes.size === 0;
  const isLossy = foreseen !== null && losesSomething(foreseen.report);
  const isNothing = foreseen?.report.every((one) => goesOver(one) === 0);
  const maySend =
    foreseen !== null && serial.isRight && password.ready && (!isLossy || customerKnows);
  const error = send.error ?? foresee.error;
  return (
    <form
      noValidate
      aria-label="Start the crossing"
      className="mt-3 flex flex-col gap-3 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (foreseen === null) foresee.mutate();
        else if (maySend && !isNothing) send.mutate();
      }}
    >
      {password.field}
      {isNothing && <Note>Nothing of what was chosen would go over.</Note>}
      {foreseen !== null && !isNothing && (
        <>
          {serial.field}
          {isLossy && (
            <YesNo
              label="The customer knows what does not arrive as it was"
              checked={customerKnows}
              onChange={setCustomerKnows}
            />
          )}
        </>
      )}
      {error && <ProblemNote problem={problemFrom(error)} />}
      <div>
        {foreseen === null ? (
          <MayButton
            permission="restore"
            type="submit"
            look="main"
            disabled={!password.ready || isBackwards(part.days) || isEmpty}
            busy={foresee.isPending}
          >
            See what would arrive
          </MayButton>
        ) : (
          !isNothing && (
            <MayButton
              permission="restore"
              type="submit"
              look="main"
              disabled={!maySend}
              busy={send.isPending}
            >
              Send onto berth {berth.number}
            </MayButton>
          )
        )}
      </div>
    </form>
  );
}
