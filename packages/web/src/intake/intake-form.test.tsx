import { routes, type KnownVisits } from '@bright-cellar/contract';
import { deviceFacts } from '@bright-cellar/core/testing';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aTicket, TICKET } from '../testing/made-up.js';
import { choose, show, whereNow, write } from '../testing/show.js';
import { IntakeForm } from './intake-form.js';

const nobody: KnownVisits = { device: null, customer: null, visits: [] };
const ada = { id: aTicket().customer.id, name: 'Ada Fennick', phone: '01632 960 011', email: '' };
const server = () =>
  new FakeServer().answers(routes.newTicket, aTicket()).answers(routes.customers, [ada]);
const openIt = () => screen.getByRole('button', { name: 'Open the ticket' });

test('a new customer’s device: nothing counts as agreed that was not said, and Enter opens the ticket', async () => {
  const asked = server();
  const user = show(<IntakeForm device={deviceFacts()} isDescribed={false} known={nobody} />);
  await write(user, screen.getByLabelText('Name'), 'Bram Saltgate');
  await user.click(screen.getByLabelText('The customer agreed that a backup is taken'));
  await choose(user, 'Reason for the visit', 'Safety copy only');
  await write(user, screen.getByLabelText('Notes'), 'Fell into the sink{Enter}');
  await screen.findByText(`/tickets/${TICKET}`);
  expect(asked.sentTo(routes.newTicket)).toEqual([
    {
      device: { deviceId: 'device-1' },
      customer: { name: 'Bram Saltgate', phone: '', email: '' },
      otherOwnerConfirmed: false,
      reason: 'safety-copy',
      agreed: { backup: true, lookIn: false, escrow: false, keepDays: 30 },
      promisedAt: null,
      notes: 'Fell into the sink',
    },
  ]);
});

test('a customer who was here before is found while their name is typed, and not written a second time', async () => {
  const asked = server();
  const user = show(<IntakeForm device={deviceFacts()} isDescribed={false} known={nobody} />);
  await write(user, screen.getByLabelText('Name'), 'Ada');
  await user.click(await screen.findByRole('button', { name: /Ada Fennick/ }));
  expect(screen.getByLabelText('Phone')).toHaveProperty('value', '01632 960 011');
  await user.click(openIt());
  await screen.findByText(`/tickets/${TICKET}`);
  expect(asked.sentTo(routes.newTicket)[0]?.customer).toEqual({ id: ada.id });
});

test('what is missing or cannot be is said beside its field, and nothing is sent', async () => {
  const asked = server();
  const user = show(<IntakeForm device={deviceFacts()} isDescribed={false} known={nobody} />);
  await user.clear(screen.getByLabelText('Keep it for (days)'));
  await write(user, screen.getByLabelText('Keep it for (days)'), '9999');
  await user.click(openIt());
  expect(await screen.findByText('Type the customer’s name.')).toBeDefined();
  expect(screen.getByText('Ten years at most.')).toBeDefined();
  expect(asked.sentTo(routes.newTicket)).toEqual([]);
  expect(whereNow()).toBe('/');
});

test('a device that came with somebody else waits until somebody asked whose it is', async () => {
  const asked = server();
  const known = { ...nobody, customer: ada };
  const user = show(<IntakeForm device={deviceFacts()} isDescribed={false} known={known} />);
  expect(openIt()).toHaveProperty('disabled', false);
  await write(user, screen.getByLabelText('Name'), ' junior');
  expect(openIt()).toHaveProperty('disabled', true);
  await user.click(screen.getByLabelText('I asked: it is this customer’s now'));
  await user.click(openIt());
  await screen.findByText(`/tickets/${TICKET}`);
  expect(asked.sentTo(routes.newTicket)[0]).toMatchObject({ otherOwnerConfirmed: true });
});

test('a dead device whose serial came with somebody else is questioned too, and can then be taken in', async () => {
  const what = 'This device came with Ada Fennick before, on ticket 26090007.';
  const asked = server().answers(routes.newTicket, ({ otherOwnerConfirmed }) =>
    otherOwnerConfirmed ? aTicket() : new Refusal('device-of-another', { what }),
  );
  const user = show(<IntakeForm device={null} isDescribed known={nobody} />);
  await write(user, screen.getByLabelText('Name'), 'Bram Saltgate');
  await user.click(openIt());
  expect(await screen.findByText('Type the make.')).toBeDefined();
  await write(user, screen.getByLabelText('Make'), 'Vireo');
  await write(user, screen.getByLabelText('Model'), 'Arc 7');
  await write(user, screen.getByLabelText(/^Serial/), 'VA7K0000TEST');
  await user.click(openIt());
  expect(await screen.findByText(what, { exact: false })).toBeDefined();
  await user.click(screen.getByLabelText('I asked: it is this customer’s now'));
  await user.click(openIt());
  await screen.findByText(`/tickets/${TICKET}`);
  expect(asked.sentTo(routes.newTicket).map((t) => t.otherOwnerConfirmed)).toEqual([false, true]);
});
