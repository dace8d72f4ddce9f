import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Backup, type Berth } from '@bright-cellar/contract';
import { serialTail } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { useKnownPassword } from '../password/known-password.js';

/** The last two questions before a device is written: which one it is, by its serial, and the password. */
export function StartRestore({
  backup,
  archive,
  berth,
  onStarted,
}: {
  backup: Pick<Backup, 'id'>;
  archive: Pick<Archive, 'ticketNumber' | 'reminder'>;
  berth: Berth;
  onStarted: (id: string) => void;
}) {
  const client = useQueryClient();
  const [tail, setTail] = useState('');
  const password = useKnownPassword(archive.ticketNumber, {
    action: 'restore',
    label: 'Password of the backup',
    reminder: archive.reminder,
    hint: 'Asked before anything is written.',
  });
  const { device } = berth;
  const start = useMutation({
    mutationFn: () =>
      call(routes.startRestore, {
        params: { id: backup.id },
        body: { deviceId: device?.id ?? '', serialTail: tail, ...password.body },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      password.clear();
      onStarted(operation.id);
    },
  });
  if (!device) return null;
  const right = tail.trim().toUpperCase() === serialTail(device.serial).toUpperCase();
  return (
    <form
      noValidate
      aria-label="Start the restore"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (right && password.ready) start.mutate();
      }}
    >
      <div className="flex flex-col gap-3 border-t border-line pt-3">
        <TextField
          label="Serial, last 4"
          className="w-28"
          value={tail}
          onChange={(e) => setTail(e.target.value)}
          error={tail.trim().length === 4 && !right ? 'Not this device.' : undefined}
          maxLength={4}
          autoComplete="off"
          mono
        />
        {password.field}
      </div>
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      <div>
        <MayButton
          permission="restore"
          type="submit"
          look="main"
          disabled={!right || !password.ready}
          busy={start.isPending}
        >
          Restore onto berth {berth.number}
        </MayButton>
      </div>
    </form>
  );
}
