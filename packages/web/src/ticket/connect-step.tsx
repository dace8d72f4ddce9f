import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Berth, type Ticket } from '@bright-cellar/contract';
import clsx from 'clsx';
import { Check, Info, X } from 'lucide-react';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { OsUpdate } from '../bench/os-update.js';
import { Button } from '../design/button.js';
import { ProblemNote } from '../design/note.js';

/** What the device must meet, live: each condition with what it says, how to meet it, and what it will ask next. */
export function ConnectStep({
  ticket,
  open,
}: {
  ticket: Ticket;
  /** Whether the step still waits for something. */
  open: boolean;
}) {
  const bench = useQuery(queries.bench()).data;
  const berth = bench?.berths.find((b) => b.device?.serial === ticket.device.serial);
  if (ticket.device.readFrom === 'typed' && !berth) {
    return <TieDevice ticket={ticket} candidates={bench?.berths ?? []} />;
  }
  if (!berth?.device) return null;
  return (
    <>
      {open && <Readiness berth={berth} />}
      <OsUpdate
        device={berth.device}
        proven={ticket.runSheet.some((s) => s.id === 'prove' && s.state === 'done')}
      />
      {open && berth.asks.length > 0 && berth.device.activity === 'idle' && (
        <p className="text-small text-soft">The device will ask for: {berth.asks.join(' ')}</p>
      )}
    </>
  );
}

function Readiness({ berth }: { berth: Berth }) {
  // A device at work for this ticket does nothing else, whatever it says; the step knows that too.
  const conditions = berth.readiness.filter((c) => c.id !== 'idle');
  if (conditions.every((c) => c.met)) return null;
  const next = conditions.find((c) => !c.met && c.steps.length > 0);
  return (
    <>
      <ul aria-label="Readiness" className="flex flex-wrap gap-x-5 gap-y-1 text-small">
        {conditions.map((c) => (
          <li key={c.id} className="flex items-center gap-1.5 [&_svg]:size-4">
            {c.met ? (
              <Check aria-label="met" className="text-proven" />
            ) : c.weight === 'note' ? (
              <Info aria-label="good to know" />
            ) : (
              <X aria-label="not met" className="text-danger" />
            )}
            <span className={clsx(!c.met && 'font-semibold')}>{c.label}</span>
            {!c.met && <span className="text-soft">{c.reading}</span>}
          </li>
        ))}
      </ul>
      {next && (
        <ol aria-label={next.label} className="list-decimal pl-6">
          {next.steps.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
      )}
    </>
  );
}

/** Questions about a device that is to be tied; once answered, it can be. */
const questions: readonly string[] = ['device-differs', 'device-of-another'];

/** A device that was only described: once it, or the drive it was recovered onto, is on the bench, it is tied to the ticket. */
function TieDevice({ ticket, candidates }: { ticket: Ticket; candidates: readonly Berth[] }) {
  const client = useQueryClient();
  const tie = useMutation({
    mutationFn: (body: { deviceId: string; questionAnswered: boolean }) =>
      call(routes.tieDevice, { params: { number: ticket.number }, body }),
    onSuccess: (changed) => client.setQueryData(queries.ticket(ticket.number).queryKey, changed),
  });
  const free = candidates.filter((b) => b.device && !b.device.empty && b.ticketNumber === null);
  const problem = tie.error ? problemFrom(tie.error) : null;
  const asked = free.find((b) => b.device?.id === tie.variables?.deviceId);
  return (
    <div className="flex flex-col items-start gap-2">
      <p className="text-soft">It was described by hand and never read.</p>
      {problem && <ProblemNote problem={problem} />}
      {problem && asked?.device && questions.includes(problem.code) && (
        <Button
          busy={tie.isPending}
          onClick={() => tie.mutate({ deviceId: asked.device?.id ?? '', questionAnswered: true })}
        >
          I looked and asked: it is this ticket’s
        </Button>
      )}
      {free.map((berth) => (
        <Button
          key={berth.number}
          busy={tie.isPending}
          onClick={() => tie.mutate({ deviceId: berth.device?.id ?? '', questionAnswered: false })}
        >
          It is the one on berth {berth.number}: {berth.device?.name}
        </Button>
      ))}
    </div>
  );
}
