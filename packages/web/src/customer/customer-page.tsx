import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { customerFilePath, routes, type CustomerData } from '@bright-cellar/contract';
import { countOf, formatBytes, formatCount } from '@bright-cellar/core';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { useMay, useOnlyWords } from '../account/may.js';
import { MayButton } from '../account/may-button.js';
import { call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { buttonShape } from '../design/button.js';
import { dateTime, day } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { OverlayForm } from '../design/overlay-form.js';
import { TextField } from '../design/field.js';
import { Page, Section } from '../design/page.js';
import { Serial } from '../design/serial.js';

/** What the catalogue has of a customer: shown, taken out for them, and let go. */
export function CustomerPage() {
  const { id = '' } = useParams();
  const may = useMay()('customer-data');
  const onlyWords = useOnlyWords()('customer-data');
  const found = useQuery({ ...queries.customerData(id), enabled: may });
  const [letting, setLetting] = useState(false);
  if (!may) {
    return (
      <Page title="A customer’s data" now={onlyWords} calm>
        <p>Name, number and address stand on each of their tickets.</p>
      </Page>
    );
  }
  if (found.error) return <ProblemNote problem={problemFrom(found.error)} />;
  if (!found.data) return <Loading what="Gathering what is known" />;
  const { customer, since, visits, backups, destroyed, record, inTheWay } = found.data;
  return (
    <Page
      title={customer.name}
      now={
        inTheWay.length > 0
          ? `Known since ${day(since)}. ${inTheWay.join(' ')}`
          : `Known since ${day(since)}. Nothing of theirs is kept: they can be forgotten.`
      }
      calm
      aside={
        <span className="flex gap-2">
          <a className={buttonShape('plain')} href={customerFilePath(id, 'pdf')} download>
            Sheet for them
          </a>
          <a className={buttonShape('plain')} href={customerFilePath(id, 'json')} download>
            As data
          </a>
          <MayButton
            permission={routes.forgetCustomer.access}
            look="danger"
            disabled={inTheWay.length > 0}
            onClick={() => setLetting(true)}
          >
            Forget them
          </MayButton>
        </span>
      }
    >
      <Section title="How they are reached">
        <p>
          {[customer.phone, customer.email].filter((text) => text !== '').join(', ') ||
            'Nothing is noted.'}
        </p>
      </Section>
      <Section title={countOf(visits.length, 'visit')}>
        <ul className="border border-line bg-surface">
          {visits.map((visit) => (
            <Visit key={visit.number} visit={visit} />
          ))}
        </ul>
      </Section>
      <Section title="Backups that are kept">
        {backups.length === 0 ? (
          <p className="text-soft">None.</p>
        ) : (
          <ul className="border border-line bg-surface">
            {backups.map(({ takenAt, items, bytes, racks }) => (
              <li
                key={takenAt}
                className="grid min-h-9 grid-cols-[14rem_1fr] items-center border-b border-line px-3 last:border-0"
              >
                <span>{dateTime(takenAt)}</span>
                <span>
                  {formatCount(items)} items, {formatBytes(bytes)}, on{' '}
                  {racks.join(', ') || 'no rack'}
                </span>
              </li>
            ))}
          </ul>
        )}
      </Section>
      {destroyed.length > 0 && (
        <Section title="Destroyed">
          <ul>
            {destroyed.map(({ number, device, doneAt }) => (
              <li key={number}>
                Certificate {number}: {device}, {doneAt ? day(doneAt) : 'not all of it yet'}
              </li>
            ))}
          </ul>
        </Section>
      )}
      <Section title={`What was done (${countOf(record.length, 'entry', 'entries')})`}>
        <ol
          className="max-h-96 overflow-y-auto border border-line bg-surface"
          tabIndex={0}
          aria-label="What was done"
        >
          {record.map(({ at, what, by }, n) => (
            <li
              key={`${at} ${n}`}
              className="grid grid-cols-[12rem_10rem_1fr] gap-x-3 border-b border-line px-3 py-1 last:border-0"
            >
              <span>{dateTime(at)}</span>
              <span>{by}</span>
              <span>{what}</span>
            </li>
          ))}
        </ol>
      </Section>
      {letting && <ForgetOverlay data={found.data} onClose={() => setLetting(false)} />}
    </Page>
  );
}

function Visit({ visit }: { visit: CustomerData['visits'][number] }) {
  const { number, openedAt, closedAt, reason, notes, device, agreed } = visit;
  return (
    <li className="grid grid-cols-[14rem_1fr] gap-x-3 border-b border-line px-3 py-1.5 last:border-0">
      <span>
        <Link className="underline" to={`/tickets/${number}`}>
          <Serial>{number}</Serial>
        </Link>
        <span className="block text-small text-soft">
          {day(openedAt)}, {closedAt ? `closed ${day(closedAt)}` : 'open'}
        </span>
      </span>
      <span>
        {reason}: {[device.family, device.model, device.name].filter(Boolean).join(' ')}
        {notes !== '' && <span className="block">{notes}</span>}
        <span className="block text-small text-soft">
          {agreed
            .map(({ what, given }) => `${what}: ${given ? 'agreed' : 'not agreed'}`)
            .join('; ')}
        </span>
      </span>
    </li>
  );
}

const WORD = 'forget';

function ForgetOverlay({ data, onClose }: { data: CustomerData; onClose: () => void }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState('');
  const { id } = data.customer;
  const forget = useMutation({
    mutationFn: () => call(routes.forgetCustomer, { params: { id } }),
    onSuccess: (now) => {
      client.setQueryData(queries.customerData(id).queryKey, now);
      onClose();
    },
  });
  return (
    <OverlayForm
      permission={routes.forgetCustomer.access}
      title={`Forget ${data.customer.name}`}
      description="Their name, number, address, what was noted, and what they call their devices go from the catalogue, for good. Tickets, certificates and the record stay, of nobody in particular."
      action="Forget them"
      ready={typed.trim().toLowerCase() === WORD}
      work={forget}
      onClose={onClose}
    >
      <Note>
        Saves of the catalogue from before still have them, sealed, until the rule lets those saves
        go.
      </Note>
      <TextField
        label={`Type “${WORD}”`}
        value={typed}
        autoFocus
        autoComplete="off"
        onChange={({ target }) => setTyped(target.value)}
      />
    </OverlayForm>
  );
}
