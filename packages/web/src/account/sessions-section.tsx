import { useMutation, useQueryClient } from '@tanstack/react-query';
import { routes, type Account } from '@bright-cellar/contract';
import { call, problemFrom } from '../api/call.js';
import { forgetShop, queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** Of what a browser says of itself, the computer that it runs on: what tells one from another. */
const computerOf = (agent: string) => /\(([^)]{1,60})/.exec(agent)?.[1] ?? 'A program';

/** Where one is signed in: each browser, and its end. */
export function SessionsSection({ sessions }: { sessions: Account['sessions'] }) {
  const client = useQueryClient();
  const endAll = useMutation({
    mutationFn: () => call(routes.endSessions),
    onSuccess: () => forgetShop(client),
  });
  const end = useMutation({
    mutationFn: (id: string) => call(routes.endSession, { params: { id } }),
    onSuccess: (now) => client.setQueryData(queries.account().queryKey, now),
  });
  const error = endAll.error ?? end.error;
  return (
    <Section title="Signed in">
      <ul className="max-w-3xl border border-line bg-surface">
        {sessions.map(({ id, browser, address, usedAt, current, locked }) => (
          <li
            key={id}
            className="grid min-h-11 grid-cols-[1fr_10rem_12rem_7rem] items-center gap-x-3 border-b border-line px-3 last:border-0"
          >
            <span className="min-w-0 truncate">
              {computerOf(browser)}
              {current && <strong>, this one</strong>}
              {locked && ', locked'}
            </span>
            <span className="font-mono text-small">{address}</span>
            <span>{dateTime(usedAt)}</span>
            {current ? (
              <span />
            ) : (
              <Button
                aria-label={`Sign out ${computerOf(browser)} of ${dateTime(usedAt)}`}
                onClick={() => end.mutate(id)}
              >
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
      <p className="text-small text-soft">
        Each ends by itself after two hours without a press, and after twelve in any case.
      </p>
      {error && <ProblemNote problem={problemFrom(error)} />}
      <div>
        <Button busy={endAll.isPending} onClick={() => endAll.mutate()}>
          Sign out everywhere
        </Button>
      </div>
    </Section>
  );
}
