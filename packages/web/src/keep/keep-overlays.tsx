import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { OverlayForm } from '../design/overlay-form.js';

interface Asked {
  archiveId: string;
  onClose: () => void;
}

/** Keeps an archive longer than was agreed. */
export function KeepLongerOverlay({ archiveId, onClose }: Asked) {
  const client = useQueryClient();
  const [until, setUntil] = useState('');
  const [untilTold, setUntilTold] = useState(false);
  const [reason, setReason] = useState('');
  const keep = useMutation({
    mutationFn: () =>
      call(routes.keepLonger, {
        params: { id: archiveId },
        body: { until: untilTold ? null : until, reason },
      }),
    onSuccess: (now) => {
      client.setQueryData(queries.keeping(archiveId).queryKey, now);
      onClose();
    },
  });
  return (
    <OverlayForm
      permission={routes.keepLonger.access}
      title="Keep it longer"
      description="In the customer’s name. What was agreed on the ticket stays noted there."
      action="Keep it"
      ready={(untilTold || until !== '') && reason.trim() !== ''}
      work={keep}
      onClose={onClose}
    >
      <TextField
        label="Until the end of"
        type="date"
        value={until}
        disabled={untilTold}
        onChange={({ target }) => setUntil(target.value)}
      />
      <YesNo
        label="Until the customer says otherwise"
        checked={untilTold}
        onChange={setUntilTold}
      />
      <Why reason={reason} onChange={setReason} hint="Who asked for it, and when." />
    </OverlayForm>
  );
}

/** Holds an archive: nobody destroys it until that is lifted. */
export function HoldOverlay({ archiveId, onClose }: Asked) {
  const client = useQueryClient();
  const [reason, setReason] = useState('');
  const hold = useMutation({
    mutationFn: () => call(routes.hold, { params: { id: archiveId }, body: { reason } }),
    onSuccess: (now) => {
      client.setQueryData(queries.keeping(archiveId).queryKey, now);
      onClose();
    },
  });
  return (
    <OverlayForm
      permission={routes.hold.access}
      title="Hold it"
      description="Nobody destroys it, due or not, until somebody lifts the hold."
      action="Hold it"
      ready={reason.trim() !== ''}
      work={hold}
      onClose={onClose}
    >
      <Why reason={reason} onChange={setReason} hint="Everybody who opens the archive reads it." />
    </OverlayForm>
  );
}

export function Why({
  reason,
  hint,
  onChange,
}: {
  reason: string;
  hint: string;
  onChange: (reason: string) => void;
}) {
  return (
    <TextField
      label="Why"
      hint={hint}
      value={reason}
      maxLength={300}
      onChange={({ target }) => onChange(target.value)}
    />
  );
}
