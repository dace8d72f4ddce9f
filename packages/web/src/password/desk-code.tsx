import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type DeskAction } from '@bright-cellar/contract';
import { Check } from 'lucide-react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Note, ProblemNote } from '../design/note.js';

/** Opens the customer's own page, shows its code, and tells when a password was typed there. */
export function DeskCode({
  number,
  action,
}: {
  number: string;
  /** What they type it for: the page names that, and serves nothing else. */
  action: DeskAction;
}) {
  const desk = useQuery(queries.desk(number)).data;
  const state = desk?.state ?? 'none';
  const client = useQueryClient();
  const open = useMutation({
    mutationFn: () => call(routes.openDesk, { params: { number }, body: { action } }),
    onSuccess: ({ until }) =>
      client.setQueryData(queries.desk(number).queryKey, {
        ...{ state: 'waiting' as const, until, action, openings: 0, openedBy: [] },
      }),
  });
  if (state === 'given') {
    return (
      <Note tone="proven">
        <span className="inline-flex items-center gap-2 font-semibold">
          <Check aria-hidden className="size-4" /> The customer has typed a password. Start now.
        </span>
      </Note>
    );
  }
  // A code that was used, or whose password opened nothing, opens no page any more.
  if (!open.data || state !== 'waiting') {
    return (
      <div className="flex flex-col gap-2">
        <p>The customer types it on their own phone, or on a second screen. You do not see it.</p>
        {open.error && <ProblemNote problem={problemFrom(open.error)} />}
        <div>
          <Button busy={open.isPending} onClick={() => open.mutate()}>
            Show the code
          </Button>
        </div>
      </div>
    );
  }
  return (
    <div className="flex items-start gap-4">
      <img
        alt="Code that opens the customer’s page"
        className="size-36 border border-line bg-[#ffffff] p-2"
        src={`data:image/svg+xml,${encodeURIComponent(open.data.code)}`}
      />
      <div className="min-w-0 text-small">
        <p className="font-semibold">
          {desk && desk.openings > 0 ? 'The page is open.' : 'Waits for the customer.'}
        </p>
        {desk && desk.openings > 1 && (
          <p className="font-semibold text-danger">
            Opened {desk.openings} times. If the customer did that once only, show another code.
          </p>
        )}
        <p>
          {onlyHere(open.data.address)
            ? 'No address on the shop network is set up, so only this computer reaches it. On a second screen, open:'
            : 'They point their phone at the code, or open:'}
        </p>
        <a
          className="font-mono break-all underline"
          href={open.data.address}
          target="_blank"
          rel="noreferrer"
        >
          {open.data.address}
        </a>
        <p className="pt-1 text-soft">Open for a quarter of an hour.</p>
      </div>
    </div>
  );
}

/** Whether an address leads nowhere but to the computer that it is opened on. */
const onlyHere = (address: string) =>
  /^(127\.|localhost$|\[::1\]$)/.test(new URL(address).hostname);
