import { zodResolver } from '@hookform/resolvers/zod';
import { useMutation } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { call, problemFrom } from '../api/call.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { Door } from './door.js';
import { passkeysWork, signInWithPasskey } from './passkey.js';
import { TakeOver, useLetIn } from './take-over.js';

/** The shop from outside: the counter above, the cellar below. */
export function SignInPage() {
  const onSuccess = useLetIn();
  const [asksCode, setAsksCode] = useState(false);
  const form = useForm({
    resolver: zodResolver(routes.signIn.body),
    defaultValues: { login: '', password: '', code: '' },
  });
  const signIn = useMutation({
    mutationFn: (body: { login: string; password: string; code?: string | undefined }) =>
      call(routes.signIn, { body: { ...body, code: body.code ?? '' } }),
    onSuccess,
    onError: (error) => {
      const wantsCode = problemFrom(error).code === 'second-factor';
      setAsksCode(wantsCode);
      if (!wantsCode) form.setFocus('password', { shouldSelect: true });
    },
  });
  const byPasskey = useMutation({ mutationFn: signInWithPasskey, onSuccess });
  const problem = signIn.error ?? byPasskey.error;
  const { errors } = form.formState;
  return (
    <main className="h-full">
      <title>Sign in · Bright Cellar</title>
      <Door
        above={
          <form
            noValidate
            aria-label="Sign in"
            onSubmit={(event) => void form.handleSubmit((body) => signIn.mutate(body))(event)}
            className="flex flex-col gap-3"
          >
            <h1 className="flex items-center gap-3 pb-3 text-title">
              <img src="/lamp.svg" alt="" className="size-10" /> Bright Cellar
            </h1>
            {problem && <ProblemNote problem={problemFrom(problem)} />}
            <TextField
              label="Name"
              autoComplete="username"
              autoFocus
              error={errors.login?.message}
              {...form.register('login')}
            />
            <TextField
              label="Password"
              type="password"
              autoComplete="current-password"
              error={errors.password?.message}
              {...form.register('password')}
            />
            {asksCode && (
              <TextField
                label="Code from your device"
                inputMode="numeric"
                autoComplete="one-time-code"
                autoFocus
                error={errors.code?.message}
                {...form.register('code')}
              />
            )}
            <Button type="submit" look="main" busy={signIn.isPending}>
              Sign in
            </Button>
            {passkeysWork() && (
              <Button busy={byPasskey.isPending} onClick={() => byPasskey.mutate()}>
                With a passkey
              </Button>
            )}
          </form>
        }
        below={<TakeOver />}
      />
    </main>
  );
}
