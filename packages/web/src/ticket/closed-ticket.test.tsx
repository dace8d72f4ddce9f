import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { anArchive, ARCHIVE, aTicket, BACKUP, TICKET } from '../testing/made-up.js';
import { choose, show } from '../testing/show.js';
import { HandoverPage } from './handover-page.js';
import { TicketPage } from './ticket-page.js';

const closed = aTicket({ closedAt: '2026-11-24T16:00:00.000Z' });
const server = (ticket = closed) =>
  new FakeServer().answers(routes.ticket, ticket).answers(routes.operations, []);
const page = () =>
  show(
    <Routes>
      <Route path="/tickets/:number" element={<TicketPage />} />
    </Routes>,
    `/tickets/${TICKET}`,
  );

test('a closed ticket says so, and is opened again', async () => {
  let isClosed = true;
  const asked = server()
    .answers(routes.ticket, () => (isClosed ? closed : aTicket()))
    .answers(routes.reopenTicket, () => {
      isClosed = false;
      return aTicket();
    });
  const user = page();
  expect(await screen.findByText(/^Closed on 24 Nov 2026\./)).toBeDefined();
  expect(screen.queryByRole('button', { name: 'Close the ticket' })).toBeNull();
  await user.click(screen.getByRole('button', { name: 'Open it again' }));
  await expect.poll(() => asked.sentTo(routes.reopenTicket)).toHaveLength(1);
  expect(await screen.findByRole('button', { name: 'Close the ticket' })).toBeDefined();
});

test('one whose device has another open ticket stays closed, and says which', async () => {
  server().answers(
    routes.reopenTicket,
    new Refusal('step-refused', { what: 'The device has an open ticket already: 26110009.' }),
  );
  const user = page();
  await user.click(await screen.findByRole('button', { name: 'Open it again' }));
  expect(await screen.findByText(/26110009/)).toBeDefined();
});

test('the handover sheet is read on the screen in the customer’s language, and printed in it', async () => {
  server().answers(routes.handoverSheet, {
    title: 'Fiche de remise',
    sections: [{ title: 'Ce qui a été fait', lines: [{ name: 'Copié', text: 'Tout.' }] }],
  });
  const user = show(
    <Routes>
      <Route path="/tickets/:number/handover" element={<HandoverPage />} />
    </Routes>,
    `/tickets/${TICKET}/handover`,
  );
  await choose(user, 'Language of the customer', 'Français');
  const sheet = await screen.findByRole('article', { name: 'Fiche de remise' });
  expect(sheet.lang).toBe('fr');
  expect(sheet.textContent).toContain('Tout.');
  expect(screen.getByRole('link', { name: 'Print it' }).getAttribute('href')).toBe(
    `/api/tickets/${TICKET}/handover.pdf?language=fr`,
  );
});

test('what is kept of it, until when, and what became of it, stands beside the run sheet', async () => {
  const destroyed = { id: BACKUP, number: 12, doneAt: '2026-12-29T10:00:00.000Z' };
  server(aTicket({ archiveIds: [ARCHIVE] })).answers(
    routes.archive,
    anArchive({ disposal: destroyed }),
  );
  page();
  expect(await screen.findByText(/Destroyed on 29 Dec 2026/)).toBeDefined();
  expect(screen.getByRole('link', { name: 'Certificate 12' }).getAttribute('href')).toContain(
    BACKUP,
  );
});
