import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { PasswordStrength } from '../password/password-strength.js';
import { FactorsSection } from './factors-section.js';
import { PinSection } from './pin-section.js';
import { SessionsSection } from './sessions-section.js';

/** One's own account: where it is signed in, who tried to, and its password. */
export function AccountPage() {
  const account = useQuery(queries.account()).data;
  const session = useQuery(queries.session()).data;
  if (!account || !session) return <Loading what="Fetching your account" />;
  const refused = account.recent.filter((event) => event.refused).length;
  return (
    <Page
      title={session.technician.name}
      now={
        refused > 0
          ? `Look whether the ${countOf(refused, 'refused try', 'refused tries')} below ${refused === 1 ? 'was' : 'were'} yours; if not, change your password.`
          : 'Nothing to do: nobody else tried to sign in as you.'
      }
      calm={refused === 0}
    >
      <SessionsSection sessions={account.sessions} />
      <ChangePassword />
      <FactorsSection account={account} />
      <PinSection hasPin={account.hasPin} />
      <Section title="Lately">
        <ol className="max-w-2xl">
          {account.recent.map(({ at, what, refused: isRefused }, n) => (
            <li key={`${at} ${n}`} className="flex gap-4 border-b border-line py-1.5">
              <time dateTime={at} className="w-44 shrink-0 font-mono text-small text-soft">
                {dateTime(at)}
              </time>
              <span className={isRefused ? 'font-semibold text-danger' : ''}>{what}</span>
            </li>
          ))}
        </ol>
      </Section>
    </Page>
  );
}

function ChangePassword() {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const [newPassword, setNewPassword] = useState('');
  const [again, setAgain] = useState('');
  const change = useMutation({
    mutationFn: () => call(routes.changeOwnPassword, { body: { password, newPassword } }),
    onSuccess: (account) => {
      client.setQueryData(queries.account().queryKey, account);
      setPassword('');
      setNewPassword('');
      setAgain('');
    },
  });
  const ready = password !== '' && newPassword !== '' && newPassword === again;
  return (
    <Section title="Your password">
      <form
        noValidate
        className="flex max-w-md flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (ready) change.mutate();
        }}
      >
        <TextField
          label="Present password"
          type="password"
          autoComplete="current-password"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        <TextField
          label="New password"
          type="password"
          autoComplete="new-password"
          value={newPassword}
          hint={<PasswordStrength password={newPassword} />}
          onChange={(event) => setNewPassword(event.target.value)}
        />
        <TextField
          label="The new one again"
          type="password"
          autoComplete="new-password"
          value={again}
          error={again !== '' && again !== newPassword ? 'The two are not the same.' : undefined}
          onChange={(event) => setAgain(event.target.value)}
        />
        {change.error && <ProblemNote problem={problemFrom(change.error)} />}
        {change.isSuccess && <Note tone="proven">Changed. Other browsers were signed out.</Note>}
        <div>
          <Button type="submit" look="main" busy={change.isPending} disabled={!ready}>
            Change the password
          </Button>
        </div>
      </form>
    </Section>
  );
}
