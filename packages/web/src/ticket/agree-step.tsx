import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Ticket } from '@bright-cellar/contract';
import { agreementNames, type AgreementKind } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { ProblemNote } from '../design/note.js';

/** What was agreed, each with who noted it and when; asked for again, or taken back, in one press. */
export function AgreeStep({ ticket, open }: { ticket: Ticket; open: boolean }) {
  const client = useQueryClient();
  const [shown, setShown] = useState(false);
  const [days, setDays] = useState('30');
  const daysGood = /^[1-9]\d{0,3}$/.test(days) && Number(days) <= 3650;
  const note = useMutation({
    mutationFn: (body: { kind: AgreementKind; given: boolean; days: number | null }) =>
      call(routes.noteAgreement, { params: { number: ticket.number }, body }),
    onSuccess: (changed) => client.setQueryData(queries.ticket(ticket.number).queryKey, changed),
  });
  const last = (kind: AgreementKind) => ticket.agreements.find((a) => a.kind === kind);
  return (
    <div className="flex flex-col items-start gap-2">
      {open && (
        <MayButton
          permission={routes.noteAgreement.access}
          look="main"
          busy={note.isPending}
          onClick={() => note.mutate({ kind: 'backup', given: true, days: null })}
        >
          The customer agrees
        </MayButton>
      )}
      {note.error && <ProblemNote problem={problemFrom(note.error)} />}
      {!shown && !open && (
        <button type="button" className="text-small underline" onClick={() => setShown(true)}>
          Who, when, and change it
        </button>
      )}
      {shown && (
        <ul aria-label="Agreements" className="w-full text-small">
          {(['backup', 'look-in', 'escrow', 'keep'] as const).map((kind) => {
            const said = last(kind);
            const given = said?.given ?? false;
            return (
              <li key={kind} className="flex min-h-9 items-center gap-3 border-t border-line">
                <span className="w-8 font-semibold">{given ? 'Yes' : 'No'}</span>
                <span className="flex-1">
                  {agreementNames[kind]}
                  {said?.days ? `, ${said.days} days` : ''}
                  <span className="text-soft">
                    {said ? ` · ${said.by}, ${dateTime(said.at)}` : ' · never asked'}
                  </span>
                </span>
                {kind === 'keep' && !given && (
                  <label className="flex items-center gap-1.5">
                    <input
                      inputMode="numeric"
                      maxLength={4}
                      aria-invalid={!daysGood}
                      value={days}
                      onChange={(event) => setDays(event.target.value)}
                      className="h-7 w-14 rounded-sm border border-edge bg-surface px-1.5 text-right aria-invalid:border-danger"
                    />
                    days
                  </label>
                )}
                <button
                  type="button"
                  className="min-h-6 underline disabled:text-soft disabled:no-underline"
                  disabled={kind === 'keep' && !given && !daysGood}
                  onClick={() =>
                    note.mutate({
                      kind,
                      given: !given,
                      days: kind === 'keep' && !given ? Number(days) : null,
                    })
                  }
                >
                  {given ? 'Take it back' : 'Note that they agree'}
                  <span className="sr-only">: {agreementNames[kind]}</span>
                </button>
              </li>
            );
          })}
        </ul>
      )}
    </div>
  );
}
