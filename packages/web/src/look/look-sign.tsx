import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type LookIn } from '@bright-cellar/contract';
import { BookOpen } from 'lucide-react';
import { useEffect } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { time } from '../design/dates.js';
import { lookKey } from './queries.js';

/** The key that closes whatever somebody looks into, from anywhere, also while they type. */
export const CLOSE_KEY = 'F9';

/** On every screen, for as long as anybody looks into a backup: who, into what, until when, and the way to close it. */
export function LookSign() {
  const open = useQuery(queries.lookIns()).data ?? [];
  const close = useCloseLook();
  const own = open.filter(({ isOwn }) => isOwn);
  useEffect(() => {
    if (own.length === 0) return;
    const pressed = (event: KeyboardEvent) => {
      if (event.key !== CLOSE_KEY) return;
      event.preventDefault();
      for (const { id } of own) close.mutate(id);
    };
    window.addEventListener('keydown', pressed);
    return () => window.removeEventListener('keydown', pressed);
  });
  return open.map((one) => (
    <p
      key={one.id}
      role="status"
      className="flex items-center gap-3 border-b border-edge bg-ink px-5 py-1 text-ground [&_svg]:size-4"
    >
      <BookOpen aria-hidden />
      <span className="min-w-0 flex-1">{wordsOf(one)}</span>
      {one.isOwn && (
        <>
          <Link to={`/look/${one.id}`} className="underline">
            Read on
          </Link>
          <Button aria-keyshortcuts={CLOSE_KEY} onClick={() => close.mutate(one.id)}>
            Close it ({CLOSE_KEY})
          </Button>
        </>
      )}
    </p>
  ));
}

const wordsOf = ({ isOwn, by, deviceName, ticketNumber, closesAt }: LookIn): string =>
  isOwn
    ? `${deviceName} is open to be read, for ticket ${ticketNumber}. It closes itself at ${time(closesAt)} if nobody reads on.`
    : `${by} looks into ${deviceName}, for ticket ${ticketNumber}.`;

/** Closes a look-in, and forgets what was read of it. */
export function useCloseLook() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => call(routes.endLookIn, { params: { id } }),
    onSettled: async (_, __, id) => {
      await client.invalidateQueries({ queryKey: queries.lookIns().queryKey });
      client.removeQueries({ queryKey: lookKey(id) });
    },
  });
}
