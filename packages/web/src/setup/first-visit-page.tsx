import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type FirstVisit } from '@bright-cellar/contract';
import { useState } from 'react';
import { call, problemFrom, rememberCsrfToken } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Lines, TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';
import { PasswordStrength } from '../password/password-strength.js';

const nothing = { code: '', name: '', address: '', keeper: '', login: '', password: '', again: '' };

/** Nobody keeps this shop yet: whoever started the program says who does, and what the shop is called. */
export function FirstVisitPage({ onBegun }: { onBegun: () => void }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState(nothing);
  const begin = useMutation({
    mutationFn: (body: FirstVisit) => call(routes.beginShop, { body }),
    onSuccess: (session) => {
      onBegun();
      rememberCsrfToken(session.csrfToken);
      client.setQueryData(queries.setUp().queryKey, { needed: false });
      client.setQueryData(queries.session().queryKey, session);
    },
  });
  const problem = begin.error && problemFrom(begin.error);
  const { code, name, address, keeper, login, password, again } = typed;
  const isReady = ![code, name, keeper, login, password].includes('') && password === again;
  const field = (of: keyof typeof nothing, inAnswer: string) => ({
    value: typed[of],
    error: problem?.fields?.[inAnswer],
    onChange: ({ target }: { target: { value: string } }) =>
      setTyped((now) => ({ ...now, [of]: target.value })),
  });
  return (
    <main className="min-h-full bg-ground px-6 py-10">
      <title>First visit · Bright Cellar</title>
      <form
        noValidate
        aria-label="First visit"
        className="mx-auto flex max-w-3xl flex-col gap-6"
        onSubmit={(event) => {
          event.preventDefault();
          if (!isReady) return;
          begin.mutate({
            ...{ code, shop: { name, address } },
            keeper: { name: keeper, login, password },
          });
        }}
      >
        <header className="flex flex-col gap-3">
          <h1 className="flex items-center gap-3 text-title">
            <img src="/lamp.svg" alt="" className="size-10" /> Bright Cellar
          </h1>
          <p className="border-l-8 border-lamp bg-lamplight px-4 py-2 text-large font-semibold">
            Nobody keeps this shop yet. Say who does, with the code that the start printed.
          </p>
        </header>
        <div className="grid gap-8 sm:grid-cols-2">
          <fieldset className="flex flex-col gap-3">
            <legend className="mb-2 font-bold">The shop</legend>
            <TextField
              label="Code"
              hint="Printed where the program was started. Each start prints another."
              mono
              autoFocus
              autoComplete="off"
              {...field('code', 'code')}
            />
            <TextField label="What the shop is called" {...field('name', 'shop.name')} />
            <Lines
              label="Where it is, and how it is reached"
              hint="Stands on its papers. It can be changed in the house rules."
              {...field('address', 'shop.address')}
            />
          </fieldset>
          <fieldset className="flex flex-col gap-3">
            <legend className="mb-2 font-bold">Its first keeper</legend>
            <TextField label="Your name" autoComplete="name" {...field('keeper', 'keeper.name')} />
            <TextField
              label="Name to sign in with"
              autoComplete="username"
              {...field('login', 'keeper.login')}
            />
            <TextField
              label="Password"
              type="password"
              autoComplete="new-password"
              {...field('password', 'keeper.password')}
              hint={<PasswordStrength password={password} />}
            />
            <TextField
              label="The same again"
              type="password"
              autoComplete="new-password"
              {...field('again', '')}
              error={again !== '' && again !== password ? 'The two are not the same.' : undefined}
            />
          </fieldset>
        </div>
        {problem && <ProblemNote problem={problem} />}
        <div>
          <Button type="submit" look="main" disabled={!isReady} busy={begin.isPending}>
            Begin
          </Button>
        </div>
      </form>
    </main>
  );
}
