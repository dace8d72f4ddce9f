import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive } from '@bright-cellar/contract';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Choice } from '../design/choice.js';
import { dateTime } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { OverlayForm } from '../design/overlay-form.js';
import { useKnownPassword } from '../password/known-password.js';

/** Opens a backup to read in it: which one, what for, and its password. */
export function BeginLook({
  archive,
  isCheck = false,
  onClose,
}: {
  archive: Archive;
  /** To draw samples for the check with the customer. */
  isCheck?: boolean;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [backup, setBackup] = useState<string>(archive.backups[0]?.id ?? '');
  const [reason, setReason] = useState(isCheck ? 'Check with the customer' : '');
  const password = useKnownPassword(archive.ticketNumber, {
    action: 'look',
    label: 'Password of the backup',
    reminder: archive.reminder,
  });
  const minutes = useQuery(queries.settings()).data?.looking.idleMinutes;
  const begin = useMutation({
    mutationFn: () => {
      const chosen = archive.backups.find(({ id }) => id === backup);
      return call(routes.beginLookIn, {
        params: { id: chosen?.id ?? '' },
        body: { reason, ...password.body },
      });
    },
    onSuccess: async ({ id }) => {
      await client.invalidateQueries({ queryKey: queries.lookIns().queryKey });
      await navigate(`/look/${id}${isCheck ? '?samples' : ''}`);
    },
  });
  return (
    <OverlayForm
      permission={routes.beginLookIn.access}
      title="Look inside"
      description={`It goes on record: who looked, when, what for, and how much was shown. It closes itself when nobody reads on${minutes ? ` for ${minutes} minutes` : ''}, and with the ticket or your sign-in.`}
      action="Open it"
      ready={reason.trim().length >= 3 && password.ready}
      work={begin}
      onClose={onClose}
    >
      {archive.backups.length > 1 && (
        <Choice
          label="Which backup"
          value={backup}
          options={Object.fromEntries(
            archive.backups.map(({ id, takenAt }) => [id, dateTime(takenAt)]),
          )}
          onChange={setBackup}
        />
      )}
      <TextField
        label="What for"
        hint="As the customer would understand it."
        value={reason}
        maxLength={200}
        onChange={({ target }) => setReason(target.value)}
      />
      {password.field}
    </OverlayForm>
  );
}
