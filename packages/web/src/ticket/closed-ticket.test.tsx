import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { expect, test, vi } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aTicket, TICKET } from '../testing/made-up.js';
import { choose, show } from '../testing/show.js';
import { TicketPage } from './ticket-page.js';

const closed = aTicket({ closedAt: '2026-11-24T16:00:00.000Z' });
const server = () => new FakeServer().answers(routes.ticket, closed).answers(routes.operations, []);
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
  await vi.waitFor(() => expect(asked.sentTo(routes.reopenTicket)).toHaveLength(1));
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

test('the handover sheet is opened in the customer’s language', async () => {
  server();
  const user = page();
  const link = await screen.findByRole('link', { name: 'Handover sheet' });
  expect(link.getAttribute('href')).toBe(`/api/tickets/${TICKET}/handover.pdf?language=en`);
  await choose(user, 'Language of the customer', 'Français');
  expect(link.getAttribute('href')).toMatch(/language=fr$/);
});
