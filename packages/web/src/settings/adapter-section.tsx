import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { adapterSiteProblems, countOf } from '@bright-cellar/core';
import { useState } from 'react';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { TextField } from '../design/field.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

const nothing = { address: '', token: '' };

/** Through what devices are reached: what comes with the program, or another one that the shop has. */
export function AdapterSection() {
  const client = useQueryClient();
  const adapter = useQuery(queries.adapter()).data;
  const bench = useQuery(queries.bench()).data;
  const [typed, setTyped] = useState(nothing);
  const [isTried, setTried] = useState(false);
  const known = (named: string | null) =>
    client.setQueryData(queries.adapter().queryKey, { named });
  const name = useMutation({
    mutationFn: () => call(routes.nameAdapter, { body: typed }),
    onSuccess: () => {
      known(typed.address);
      // A secret stays on no screen longer than it is needed.
      setTyped(nothing);
      setTried(false);
    },
  });
  const own = useMutation({
    mutationFn: () => call(routes.takeOwnAdapter),
    onSuccess: () => {
      known(null);
      name.reset();
    },
  });
  if (!adapter) return null;
  const problems = adapterSiteProblems(typed);
  const isSound = problems.address === null && problems.token === null;
  const error = name.error ?? own.error;
  const said = (problem: string | null) => (isTried ? (problem ?? undefined) : undefined);
  return (
    <Section title="What devices are reached through">
      <form
        noValidate
        className="flex max-w-2xl flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          setTried(true);
          own.reset();
          if (isSound) name.mutate();
        }}
      >
        <p>
          {adapter.named ?? 'The adapter that comes with the program'}
          {bench &&
            (bench.connected
              ? `: it answers, and has ${countOf(bench.berths.length, 'berth')}.`
              : ': it does not answer now.')}
        </p>
        <TextField
          label="Another adapter’s address"
          hint="As http://127.0.0.1:4681 on this computer; over the network with https."
          mono
          autoComplete="off"
          value={typed.address}
          error={said(problems.address)}
          onChange={({ target }) => setTyped({ ...typed, address: target.value.trim() })}
        />
        <TextField
          label="Its token"
          hint="Sealed when it is kept, and shown nowhere again."
          type="password"
          mono
          autoComplete="off"
          value={typed.token}
          error={said(problems.token)}
          onChange={({ target }) => setTyped({ ...typed, token: target.value.trim() })}
        />
        {error && <ProblemNote problem={problemFrom(error)} />}
        {name.data && (
          <Note tone="proven">
            It answers, and has {countOf(name.data.berths, 'berth')}. Devices are reached through it
            from now on.
          </Note>
        )}
        <div className="flex items-start gap-3">
          <MayButton permission="house-rules" type="submit" busy={name.isPending}>
            Try it, and use it
          </MayButton>
          {adapter.named !== null && (
            <MayButton
              permission="house-rules"
              busy={own.isPending}
              onClick={() => {
                name.reset();
                own.mutate();
              }}
            >
              Use the program’s own
            </MayButton>
          )}
        </div>
      </form>
    </Section>
  );
}
