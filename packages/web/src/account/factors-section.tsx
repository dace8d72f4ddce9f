import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Account } from '@bright-cellar/contract';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { day } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';
import { addPasskey, passkeysWork } from '../sign-in/passkey.js';

/** More than a password: codes from one’s own device, and passkeys. */
export function FactorsSection({ account }: { account: Account }) {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const [name, setName] = useState('');
  const onSuccess = async (now: Account) => {
    client.setQueryData(queries.account().queryKey, now);
    setPassword('');
    setCode('');
    setName('');
    offer.reset();
    await client.invalidateQueries({ queryKey: queries.session().queryKey });
  };
  const offer = useMutation({
    mutationFn: () => call(routes.offerCode, { body: { password } }),
    gcTime: 0,
  });
  const use = useMutation({
    mutationFn: () => call(routes.useCode, { body: { code } }),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: () => call(routes.dropCode, { body: { password } }),
    onSuccess,
  });
  const add = useMutation({ mutationFn: () => addPasskey(password, name), onSuccess });
  const dropKey = useMutation({
    mutationFn: (id: string) => call(routes.dropPasskey, { params: { id } }),
    onSuccess,
  });
  const error = offer.error ?? use.error ?? drop.error ?? add.error ?? dropKey.error;
  return (
    <Section title="More than a password">
      <div className="flex max-w-xl flex-col gap-3">
        <p>
          {account.hasCode
            ? 'You give a code from your own device beside your password.'
            : 'Beside your password you can give a code from your own device, or sign in with a passkey instead of both.'}
        </p>
        {error && <ProblemNote problem={problemFrom(error)} />}
        <TextField
          label="Present password, for these"
          type="password"
          autoComplete="current-password"
          className="max-w-md"
          value={password}
          onChange={({ target }) => setPassword(target.value)}
        />
        {offer.data ? (
          <form
            noValidate
            className="flex items-start gap-4 border border-line p-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (code !== '') use.mutate();
            }}
          >
            <img
              alt="Code that sets your device up"
              className="size-36 border border-line bg-[#ffffff] p-2"
              src={`data:image/svg+xml,${encodeURIComponent(offer.data.picture)}`}
            />
            <div className="flex min-w-0 flex-1 flex-col gap-2">
              <p>Point the application for codes on your device at it, or type:</p>
              <p className="font-mono text-small break-all">{offer.data.secret}</p>
              <TextField
                label="The code that it shows now"
                inputMode="numeric"
                autoComplete="one-time-code"
                maxLength={8}
                autoFocus
                value={code}
                onChange={({ target }) => setCode(target.value)}
              />
              <div>
                <Button type="submit" look="main" busy={use.isPending}>
                  Give codes from now on
                </Button>
              </div>
            </div>
          </form>
        ) : (
          <div className="flex flex-wrap gap-2">
            <Button
              disabled={password === ''}
              busy={offer.isPending}
              onClick={() => offer.mutate()}
            >
              {account.hasCode ? 'Another device for codes' : 'Set up codes'}
            </Button>
            {account.hasCode && (
              <Button disabled={password === ''} onClick={() => drop.mutate()}>
                Give no codes
              </Button>
            )}
          </div>
        )}
        {account.passkeys.length > 0 && (
          <ul className="border border-line bg-surface">
            {account.passkeys.map((key) => (
              <li
                key={key.id}
                className="flex min-h-11 items-center justify-between border-b border-line px-3 last:border-0"
              >
                <span>
                  {key.name}, since {day(key.createdAt)}
                </span>
                <Button
                  aria-label={`Take away the passkey ${key.name}`}
                  onClick={() => dropKey.mutate(key.id)}
                >
                  Take away
                </Button>
              </li>
            ))}
          </ul>
        )}
        {passkeysWork() ? (
          <div className="flex items-end gap-2">
            <TextField
              label="Name of a passkey"
              hint="Counter, own phone …"
              maxLength={60}
              value={name}
              onChange={({ target }) => setName(target.value)}
            />
            <Button
              className="mb-6"
              disabled={password === '' || name.trim() === ''}
              busy={add.isPending}
              onClick={() => add.mutate()}
            >
              Add a passkey
            </Button>
          </div>
        ) : (
          <Note>Passkeys are for a name: open this page under one, not under an address.</Note>
        )}
      </div>
    </Section>
  );
}
