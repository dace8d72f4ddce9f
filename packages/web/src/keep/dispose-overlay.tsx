import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive } from '@bright-cellar/contract';
import { countOf, DESTROY_WORD, formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { day } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { Overlay } from '../design/overlay.js';
import { Why } from './keep-overlays.js';

/** Destroys an archive, in two steps: what is lost, with its ticket's number typed; then the word itself. */
export function DisposeOverlay({ archive, onClose }: { archive: Archive; onClose: () => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [typedTicket, setTypedTicket] = useState('');
  const [reason, setReason] = useState('');
  const [isSure, setSure] = useState(false);
  const [word, setWord] = useState('');
  const dispose = useMutation({
    mutationFn: () =>
      call(routes.startDispose, {
        params: { id: archive.id },
        body: { typedTicket, typedWord: DESTROY_WORD, reason },
      }),
    onSuccess: async (operation) => {
      placeOperation(client, operation);
      await navigate('/keeping');
      await client.invalidateQueries({ queryKey: queries.due().queryKey });
    },
  });
  const isRead = typedTicket.trim() === archive.ticketNumber && reason.trim() !== '';
  return (
    <Overlay open onOpenChange={(open) => !open && onClose()} title="Destroy this archive">
      <form
        noValidate
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!isSure && isRead) setSure(true);
          else if (isSure && word === DESTROY_WORD) dispose.mutate();
        }}
      >
        <p className="font-semibold">{whatIsLost(archive)}</p>
        {isSure ? (
          <TextField
            key="word"
            autoFocus
            label={`Type the word: ${DESTROY_WORD}`}
            hint="Its keys go first. From then on nobody can take it back."
            value={word}
            autoComplete="off"
            onChange={({ target }) => setWord(target.value)}
          />
        ) : (
          <>
            <ul className="list-disc pl-6">
              {archive.copies.map(({ id, rackName, storedBytes, present }) => (
                <li key={id}>
                  {rackName}, {formatBytes(storedBytes)}
                  {present ? '' : ': away, and destroyed when the rack is seen'}
                </li>
              ))}
            </ul>
            <p className="text-small text-soft">
              Packages that were taken along are not covered. A certificate says what was destroyed,
              where and how.
            </p>
            <TextField
              label="Number of its ticket"
              hint="Off the ticket or the label."
              mono
              inputMode="numeric"
              value={typedTicket}
              autoComplete="off"
              onChange={({ target }) => setTypedTicket(target.value)}
            />
            <Why reason={reason} onChange={setReason} hint="It stands on the certificate." />
          </>
        )}
        {dispose.error && <ProblemNote problem={problemFrom(dispose.error)} />}
        <div className="flex gap-2">
          <MayButton
            permission="dispose"
            type="submit"
            look="danger"
            disabled={isSure ? word !== DESTROY_WORD : !isRead}
            busy={dispose.isPending}
          >
            {isSure ? 'Destroy it now' : 'Go on'}
          </MayButton>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Overlay>
  );
}

/** The sentence that names what is lost. */
function whatIsLost({ backups, copies, customerName, device, takenAt }: Archive): string {
  const count = countOf(backups.length, 'backup');
  const where = countOf(copies.length, 'copy', 'copies');
  return `What this archive keeps of ${device.name} of ${customerName} is lost: ${count}, the newest of ${day(takenAt)}, in ${where}. All of them go.`;
}
