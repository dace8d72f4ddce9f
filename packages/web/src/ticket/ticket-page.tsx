import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { certificatePath, paperPath, routes, type Ticket } from '@bright-cellar/contract';
import { osVersionRead, visitReasons } from '@bright-cellar/core';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime, day } from '../design/dates.js';
import { Button, ButtonLink } from '../design/button.js';
import { Facts } from '../design/figures.js';
import { Loading } from '../design/loading.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';
import { ExtractOverlay } from '../extract/extract-overlay.js';
import { ScheduleOverlay } from '../regular/schedule-overlay.js';
import { keptWords } from '../keep/kept-words.js';
import { Paper } from './paper.js';
import { RunSheet } from './run-sheet.js';

/** One customer's job: its run sheet, and beside it who, what and what was done. */
export function TicketPage() {
  const { number = '' } = useParams();
  const ticket = useQuery(queries.ticket(number));
  const operations = useQuery(queries.operations()).data ?? [];
  if (ticket.isPending) return <Loading what="Fetching the ticket" />;
  if (ticket.error) {
    return (
      <Page title={`Ticket ${number}`} now="Go back to the counter and choose again." calm>
        <ProblemNote
          problem={{
            ...problemFrom(ticket.error),
            ...(problemFrom(ticket.error).code === 'not-found'
              ? { what: `There is no ticket ${number}.` }
              : {}),
          }}
        />
      </Page>
    );
  }
  const { data } = ticket;
  const running = data.step?.state === 'running';
  // What work that runs needs comes before everything else.
  const needs = operations.find((o) => o.ticketNumber === number && o.needs !== null)?.needs;
  return (
    <Page
      title={`Ticket ${data.number}`}
      aside={
        <span className="flex flex-wrap items-center gap-3">
          <span className="text-large">{data.customerName}</span>
          <Papers number={data.number} />
          {data.closedAt !== null ? (
            <ReopenTicket number={data.number} />
          ) : (
            !data.step && <CloseTicket number={data.number} />
          )}
        </span>
      }
      now={
        needs ??
        (data.closedAt !== null
          ? `Closed on ${day(data.closedAt)}. Open it again if the customer is back with the same matter.`
          : (data.step?.sentence ?? 'Nothing is left to do on this ticket.'))
      }
      calm={!needs && (data.closedAt !== null || !data.step || running)}
    >
      <div className="grid grid-cols-1 xl:grid-cols-[minmax(0,1fr)_17rem] items-start gap-6">
        <RunSheet ticket={data} />
        <Beside ticket={data} />
      </div>
    </Page>
  );
}

/** What can be printed of the ticket; each opens as a PDF. */
function Papers({ number }: { number: string }) {
  return (
    <>
      <Paper path={paperPath(number, 'label')} name="Label" />
      <Paper path={paperPath(number, 'slip')} name="Intake slip" />
    </>
  );
}

function CloseTicket({ number }: { number: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const close = useMutation({
    mutationFn: () => call(routes.closeTicket, { params: { number } }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ['tickets'] });
      void navigate('/');
    },
  });
  return (
    <MayButton
      permission={routes.closeTicket.access}
      look="main"
      busy={close.isPending}
      onClick={() => close.mutate()}
    >
      Close the ticket
    </MayButton>
  );
}

function ReopenTicket({ number }: { number: string }) {
  const client = useQueryClient();
  const reopen = useMutation({
    mutationFn: () => call(routes.reopenTicket, { params: { number } }),
    onSuccess: (ticket) => {
      client.setQueryData(queries.ticket(number).queryKey, ticket);
      void client.invalidateQueries({ queryKey: ['tickets'] });
    },
  });
  return (
    <>
      <MayButton
        permission={routes.reopenTicket.access}
        busy={reopen.isPending}
        onClick={() => reopen.mutate()}
      >
        Open it again
      </MayButton>
      {reopen.error && <ProblemNote problem={problemFrom(reopen.error)} />}
    </>
  );
}

/** What is wanted now and then: only a part of the contents, or the same backup again and again. */
function MoreWork({ ticket }: { ticket: Ticket }) {
  const [asking, setAsking] = useState<'extract' | 'schedule' | null>(null);
  const close = () => setAsking(null);
  return (
    <div className="flex flex-col items-start gap-2">
      <Button disabled={ticket.berth === null} onClick={() => setAsking('extract')}>
        Take only a part out …
      </Button>
      <Button onClick={() => setAsking('schedule')}>Take it regularly …</Button>
      <ButtonLink to={`/tickets/${ticket.number}/messages-back`}>Messages back …</ButtonLink>
      <ButtonLink to={`/tickets/${ticket.number}/applications-back`}>
        Applications back …
      </ButtonLink>
      <ButtonLink to={`/tickets/${ticket.number}/organiser`}>
        In step with their own books …
      </ButtonLink>
      {asking === 'extract' && <ExtractOverlay ticket={ticket} onClose={close} />}
      {asking === 'schedule' && <ScheduleOverlay ticket={ticket} onClose={close} />}
    </div>
  );
}

/** What is kept of the visit, until when, and what became of it. */
function ItsArchive({ id }: { id: string }) {
  const disposal = useQuery(queries.archive(id)).data?.disposal ?? null;
  const keeping = useQuery({ ...queries.keeping(id), enabled: disposal === null }).data;
  return (
    <div className="flex flex-col items-start gap-1">
      <ButtonLink to={`/archives/${id}`}>Open its archive</ButtonLink>
      {disposal ? (
        <p className="text-small">
          {disposal.doneAt
            ? `Destroyed on ${day(disposal.doneAt)}. `
            : 'It is being destroyed: something of it is left. '}
          <a
            className="underline"
            href={certificatePath(disposal.id)}
            target="_blank"
            rel="noreferrer"
          >
            Certificate {disposal.number}
          </a>
        </p>
      ) : (
        keeping && (
          <p className="text-small text-soft">
            {keeping.hold ? 'Held, and not destroyed.' : keptWords(keeping)}
          </p>
        )
      )}
    </div>
  );
}

function Beside({ ticket }: { ticket: Ticket }) {
  const { device, customer } = ticket;
  return (
    <aside aria-label="About this ticket" className="flex flex-col gap-5">
      <Section title="Customer">
        <p>{customer.phone || 'No phone noted'}</p>
        <p className="break-words">{customer.email}</p>
        <Link className="text-small underline" to={`/customers/${customer.id}`}>
          All that is known of them
        </Link>
      </Section>
      <Section title="Device">
        <Facts
          facts={[
            ['Model', `${device.familyName} ${device.model}`],
            ['Serial', <Serial key="s">{device.serial}</Serial>],
            ['OS', osVersionRead(device.osVersion)],
            ['Now', ticket.berth ? `on berth ${ticket.berth}` : 'not on the bench'],
          ]}
        />
      </Section>
      <Section title="Visit">
        <p>{visitReasons[ticket.reason]}</p>
        {ticket.promisedAt && <p>Ready by {dateTime(ticket.promisedAt)}</p>}
        {ticket.notes && <p className="text-soft">{ticket.notes}</p>}
      </Section>
      {ticket.archiveIds.map((id) => (
        <ItsArchive key={id} id={id} />
      ))}
      <MoreWork ticket={ticket} />
      <div>
        <ButtonLink to={`/tickets/${ticket.number}/handover`}>Handover sheet</ButtonLink>
      </div>
      <Section title="On record">
        <ol className="flex flex-col gap-2 text-small">
          {ticket.history.map((entry) => (
            <li key={entry.at + entry.what}>
              <span className="text-soft">
                {dateTime(entry.at)}, {entry.by}
              </span>
              <br />
              {entry.what}
            </li>
          ))}
        </ol>
      </Section>
    </aside>
  );
}
