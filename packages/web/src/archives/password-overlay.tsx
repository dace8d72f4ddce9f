import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive } from '@bright-cellar/contract';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { OverlayForm } from '../design/overlay-form.js';
import { NewPasswordFields, useNewPassword } from '../password/new-password.js';
import { PasswordField } from '../password/password-field.js';

/** Gives an archive another password. */
export function PasswordOverlay({ archive, onClose }: { archive: Archive; onClose: () => void }) {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const { value, set, ready } = useNewPassword();
  const change = useMutation({
    mutationFn: () =>
      call(routes.changePassword, {
        params: { id: archive.id },
        body: {
          password,
          newPassword: value.password,
          passwordHolder: value.holder,
          reminder: value.reminder,
        },
      }),
    onSuccess: (changed) => {
      client.setQueryData(queries.archive(archive.id).queryKey, changed);
      onClose();
    },
  });
  return (
    <OverlayForm
      permission={routes.changePassword.access}
      title="Change the password"
      description="Takes a second: the archive itself is not written again. Whoever kept a copy of the old key file and knows the old password can still open what is in it now."
      action="Change it"
      ready={ready && password !== ''}
      work={change}
      onClose={onClose}
    >
      <PasswordField
        label="Password now"
        reminder={archive.reminder}
        value={password}
        onChange={setPassword}
      />
      <NewPasswordFields label="New password" value={value} set={set} />
    </OverlayForm>
  );
}
