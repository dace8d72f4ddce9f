import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Overlay } from '../design/overlay.js';

/** Erasing, made hard: a proven backup, the serial read off the device, and a sentence that names what is lost. */
export function EraseOverlay({ deviceId, onClose }: { deviceId: string; onClose: () => void }) {
  const client = useQueryClient();
  const [tail, setTail] = useState('');
  const readiness = useQuery(queries.eraseReadiness(deviceId));
  const erase = useMutation({
    mutationFn: () => call(routes.startErase, { params: { deviceId }, body: { serialTail: tail } }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      onClose();
    },
  });
  return (
    <Overlay open onOpenChange={(open) => !open && onClose()} title="Erase this device">
      {readiness.isPending && <Loading what="Looking for a proven backup" />}
      {readiness.error && <ProblemNote problem={problemFrom(readiness.error)} />}
      {readiness.data && !readiness.data.allowed && (
        <ProblemNote
          problem={{
            what: readiness.data.because,
            safe: 'Nothing was erased.',
            next: readiness.data.next ?? '',
          }}
        />
      )}
      {readiness.data?.allowed && (
        <form
          className="flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            erase.mutate();
          }}
        >
          <p className="font-semibold">{readiness.data.loses}</p>
          <Note tone="proven">{readiness.data.because}</Note>
          <TextField
            label="Last four characters of the serial"
            hint="Read them off the device in your hand."
            value={tail}
            onChange={(event) => setTail(event.target.value)}
            autoComplete="off"
            maxLength={4}
            mono
          />
          {erase.error && <ProblemNote problem={problemFrom(erase.error)} />}
          <div className="flex gap-2">
            <MayButton
              permission="erase"
              type="submit"
              look="danger"
              disabled={tail.trim().length !== 4}
              busy={erase.isPending}
            >
              Erase everything on it
            </MayButton>
            <Button onClick={onClose}>Keep it as it is</Button>
          </div>
        </form>
      )}
    </Overlay>
  );
}
