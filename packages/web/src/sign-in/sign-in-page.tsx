import { zodResolver } from '@hookform/resolvers/zod';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { useForm } from 'react-hook-form';
import { call, problemFrom, rememberCsrfToken } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';

/** The shop from outside: the counter above, the cellar below. */
export function SignInPage() {
  const client = useQueryClient();
  const form = useForm({
    resolver: zodResolver(routes.signIn.body),
    defaultValues: { login: '', password: '' },
  });
  const signIn = useMutation({
    mutationFn: (body: { login: string; password: string }) => call(routes.signIn, { body }),
    onSuccess: (session) => {
      rememberCsrfToken(session.csrfToken);
      client.setQueryData(queries.session().queryKey, session);
    },
    onError: () => form.setFocus('password', { shouldSelect: true }),
  });
  const { errors } = form.formState;
  return (
    <main className="flex h-full flex-col">
      <title>Sign in · Bright Cellar</title>
      <div className="flex flex-1 items-end justify-center pb-10">
        <form
          noValidate
          aria-label="Sign in"
          onSubmit={(event) => void form.handleSubmit((body) => signIn.mutate(body))(event)}
          className="flex w-80 flex-col gap-3"
        >
          <h1 className="flex items-center gap-3 pb-3 text-title">
            <img src="/lamp.svg" alt="" className="size-10" /> Bright Cellar
          </h1>
          {signIn.error && <ProblemNote problem={problemFrom(signIn.error)} />}
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
          <Button type="submit" look="main" busy={signIn.isPending}>
            Sign in
          </Button>
        </form>
      </div>
      <div className="on-cellar flex h-2/5 justify-center border-t-8 border-edge bg-cellar pt-8 text-cellar-soft">
        <p className="w-80">
          Upstairs the bench and its tickets. Down here what is kept, where it lies, and how safe it
          is.
        </p>
      </div>
    </main>
  );
}
