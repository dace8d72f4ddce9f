import { useMutation, useQuery } from '@tanstack/react-query';
import { deskActions, routes } from '@bright-cellar/contract';
import { dateTime } from '../design/dates.js';
import { passwordProblem } from '@bright-cellar/core';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { PasswordStrength } from '../password/password-strength.js';

/** The customer's own page, on their phone or a second screen: they type the password, and nobody of the shop sees it. */
export function DeskPage({ token }: { token: string }) {
  const desk = useQuery({
    queryKey: ['desk', token],
    queryFn: () => call(routes.customerDesk, { params: { token } }),
    retry: false,
  });
  const [password, setPassword] = useState('');
  const [again, setAgain] = useState('');
  const [reminder, setReminder] = useState('');
  const give = useMutation({
    mutationFn: () => call(routes.giveAtDesk, { params: { token }, body: { password, reminder } }),
    onSuccess: () => {
      setPassword('');
      setAgain('');
    },
  });
  if (desk.isPending) return <Loading what="Opening" />;
  const isNew = desk.data?.action === 'backup';
  const ready = isNew ? passwordProblem(password) === null && again === password : password !== '';
  return (
    <main className="mx-auto flex max-w-md flex-col gap-4 p-6">
      <h1 className="text-title">{desk.data?.shopName ?? 'Bright Cellar'}</h1>
      {desk.error && <ProblemNote problem={problemFrom(desk.error)} />}
      {desk.data && give.isSuccess && (
        <Note tone="proven">
          <p className="font-semibold">Thank you. You can close this page.</p>
          <p>Keep the password: without it nobody can open the backup, not even the shop.</p>
        </Note>
      )}
      {desk.data && !give.isSuccess && (
        <form
          noValidate
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            if (ready) give.mutate();
          }}
        >
          <p>
            This is about your <strong>{desk.data.device}</strong>. The shop wants to{' '}
            {deskActions[desk.data.action]}.
          </p>
          <p>
            {isNew
              ? 'Choose a password for the backup. Without it nobody can open the backup, not even the shop.'
              : 'Type the password that you chose for the backup.'}{' '}
            The shop does not see it, and uses it for this alone. The page closes when you have
            typed it, or at {dateTime(desk.data.until)}.
          </p>
          {desk.data.openings > 1 && (
            <Note>
              <strong>Careful.</strong> This page was opened before. If that was not you, type
              nothing and ask for another code.
            </Note>
          )}
          {desk.data.openedBy.length > 0 && (
            <Note>
              Opened on a computer where {desk.data.openedBy.join(' and ')} of the shop is signed
              in. Look that nobody watches, and that the address is the shop’s.
            </Note>
          )}
          <TextField
            label="Password"
            type="password"
            autoComplete={isNew ? 'new-password' : 'off'}
            value={password}
            onChange={(event) => setPassword(event.target.value)}
            hint={isNew ? <PasswordStrength password={password} /> : undefined}
          />
          {isNew && (
            <>
              <TextField
                label="The same again"
                type="password"
                autoComplete="new-password"
                value={again}
                onChange={(event) => setAgain(event.target.value)}
                error={again !== '' && again !== password ? 'The two are not the same.' : undefined}
              />
              <TextField
                label="A reminder for yourself"
                hint="The shop sees this. Never the password itself."
                value={reminder}
                maxLength={200}
                onChange={(event) => setReminder(event.target.value)}
              />
            </>
          )}
          {give.error && <ProblemNote problem={problemFrom(give.error)} />}
          <div>
            <Button type="submit" look="main" busy={give.isPending} disabled={!ready}>
              Use this password
            </Button>
          </div>
        </form>
      )}
    </main>
  );
}
