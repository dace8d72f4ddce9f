import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive } from '@bright-cellar/contract';
import { passwordProblem } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { Overlay } from '../design/overlay.js';
import { PasswordStrength } from '../ticket/password-strength.js';

const holders = {
  customer: 'The customer',
  shop: 'The shop',
  both: 'The customer and the shop',
} as const;
type Holder = keyof typeof holders;

/** Gives an archive another password. */
export function PasswordOverlay({ archive, onClose }: { archive: Archive; onClose: () => void }) {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const [newPassword, setNewPassword] = useState('');
  const [again, setAgain] = useState('');
  const [holder, setHolder] = useState<Holder>('customer');
  const [reminder, setReminder] = useState('');
  const change = useMutation({
    mutationFn: () =>
      call(routes.changePassword, {
        params: { id: archive.id },
        body: { password, newPassword, passwordHolder: holder, reminder },
      }),
    onSuccess: (changed) => {
      client.setQueryData(queries.archive(archive.id).queryKey, changed);
      onClose();
    },
  });
  const differs = again !== '' && again !== newPassword;
  const ready = password !== '' && passwordProblem(newPassword) === null && again === newPassword;
  return (
    <Overlay
      open
      onOpenChange={(open) => !open && onClose()}
      title="Change the password"
      description="Takes a second: the archive itself is not written again. Whoever kept a copy of the old key file and knows the old password can still open what is in it now."
    >
      <form
        noValidate
        className="flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (ready) change.mutate();
        }}
      >
        <TextField
          label="Password now"
          type="password"
          autoComplete="off"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          hint={archive.reminder ? `Reminder: ${archive.reminder}` : undefined}
        />
        <TextField
          label="New password"
          type="password"
          autoComplete="new-password"
          value={newPassword}
          onChange={(e) => setNewPassword(e.target.value)}
          hint={<PasswordStrength password={newPassword} />}
        />
        <TextField
          label="The same again"
          type="password"
          autoComplete="new-password"
          value={again}
          onChange={(e) => setAgain(e.target.value)}
          error={differs ? 'The two are not the same.' : undefined}
        />
        <Choice label="Who holds it" value={holder} options={holders} onChange={setHolder} />
        <TextField
          label="Reminder"
          placeholder="never the password itself"
          autoComplete="off"
          value={reminder}
          onChange={(e) => setReminder(e.target.value)}
          maxLength={200}
        />
        {change.error && <ProblemNote problem={problemFrom(change.error)} />}
        <div>
          <Button type="submit" look="main" disabled={!ready} busy={change.isPending}>
            Change it
          </Button>
        </div>
      </form>
    </Overlay>
  );
}
