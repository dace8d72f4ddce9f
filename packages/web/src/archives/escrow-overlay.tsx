import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive } from '@bright-cellar/contract';
import { useState } from 'react';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Note } from '../design/note.js';
import { Overlay } from '../design/overlay.js';
import { OverlayForm } from '../design/overlay-form.js';
import { NewPasswordFields, useNewPassword } from '../password/new-password.js';
import { EscrowPeople, isComplete, nobodyYet } from '../settings/escrow-people.js';

/** A forgotten password: what is possible, and what is not. */
export function EscrowOverlay({ archive, onClose }: { archive: Archive; onClose: () => void }) {
  const client = useQueryClient();
  const [people, setPeople] = useState(nobodyYet);
  const { value, set, ready } = useNewPassword();
  const open = useMutation({
    mutationFn: () =>
      call(routes.openByEscrow, {
        params: { id: archive.id },
        body: {
          people,
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
  if (!archive.escrow) {
    return (
      <Overlay open onOpenChange={(isOpen) => !isOpen && onClose()} title="The password is lost">
        <Note>
          <p className="font-semibold">Nobody can open this archive without its password.</p>
          <p>
            The customer did not agree to escrow, so the shop has no key of its own, and nobody can
            recover or reset it.
          </p>
          <p className="pt-2">What is possible:</p>
          <ul className="list-disc pl-5">
            <li>
              Ask its holder again
              {archive.reminder ? <>: their reminder is “{archive.reminder}”.</> : '.'} Every try is
              quick, and ten a minute are allowed.
            </li>
            <li>Check it for damage without the password: its bytes can be proved whole.</li>
            <li>If the device still holds its contents, take another backup of it.</li>
          </ul>
        </Note>
      </Overlay>
    );
  }
  return (
    <OverlayForm
      permission={routes.openByEscrow.access}
      title="The password is lost"
      description="The customer agreed to escrow: two people of the shop together give the archive another password. It stays on record who they were."
      action="Give it another password"
      ready={ready && isComplete(people)}
      work={open}
      onClose={onClose}
    >
      <EscrowPeople people={people} onChange={setPeople} />
      <NewPasswordFields label="New password" value={value} set={set} />
    </OverlayForm>
  );
}
