import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Backup, type Berth } from '@bright-cellar/contract';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { placeOperation } from '../api/queries.js';
import { useSerialTail } from '../bench/serial-tail.js';
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
  const serial = useSerialTail(berth.device?.serial ?? null);
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
        body: { deviceId: device?.id ?? '', serialTail: serial.tail, ...password.body },
      }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      password.clear();
      onStarted(operation.id);
    },
  });
  if (!device) return null;
  return (
    <form
      noValidate
      aria-label="Start the restore"
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (serial.isRight && password.ready) start.mutate();
      }}
    >
      <div className="flex flex-col gap-3 border-t border-line pt-3">
        {serial.field}
        {password.field}
      </div>
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      <div>
        <MayButton
          permission="restore"
          type="submit"
          look="main"
          disabled={!serial.isRight || !password.ready}
          busy={start.isPending}
        >
          Restore onto berth {berth.number}
        </MayButton>
      </div>
    </form>
  );
}
