import { useMutation } from '@tanstack/react-query';
import { routes, type PartnerTold } from '@bright-cellar/contract';
import { partnerSiteSchema, type LinkDeviceId } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';

/** Signs in to the customer's own server. What is typed here is sent once, and kept in memory for half an hour at most. */
export function OpenServer({
  ticket,
  deviceId,
  onOpened,
}: {
  ticket: string;
  deviceId: LinkDeviceId;
  onOpened: (told: PartnerTold) => void;
}) {
  const [address, setAddress] = useState('');
  const [user, setUser] = useState('');
  const [password, setPassword] = useState('');
  const open = useMutation({
    mutationFn: () =>
      call(routes.openPartner, {
        params: { number: ticket, deviceId },
        body: { site: { address: address.trim(), user: user.trim() }, password },
      }),
    onSuccess: onOpened,
    onSettled: () => setPassword(''),
  });
  const wrong = partnerSiteSchema.shape.address.safeParse(address.trim()).error?.issues[0]?.message;
  const isReady = wrong === undefined && user.trim() !== '' && password !== '';
  return (
    <form
      noValidate
      aria-label="Open the customer’s server"
      className="flex max-w-md flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (isReady) open.mutate();
      }}
    >
      <TextField
        label="Address"
        type="url"
        hint="Of a server that speaks CardDAV and CalDAV, as https://books.example."
        error={address === '' ? undefined : wrong}
        value={address}
        onChange={({ target }) => setAddress(target.value)}
        autoComplete="off"
        spellCheck={false}
      />
      <TextField
        label="Name they sign in with"
        value={user}
        onChange={({ target }) => setUser(target.value)}
        autoComplete="off"
        spellCheck={false}
      />
      <TextField
        label="Password"
        type="password"
        hint="It is kept in memory until you sign out there, half an hour at most, and written down nowhere."
        value={password}
        onChange={({ target }) => setPassword(target.value)}
        autoComplete="off"
      />
      {open.error && <ProblemNote problem={problemFrom(open.error)} />}
      <div>
        <MayButton
          permission="restore"
          type="submit"
          look="main"
          disabled={!isReady}
          busy={open.isPending}
        >
          Sign in there
        </MayButton>
      </div>
    </form>
  );
}
