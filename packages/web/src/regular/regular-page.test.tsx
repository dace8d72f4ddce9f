import { routes, type RegularWork } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aTicket, BACKUP, TICKET, aDesk } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { RegularPage } from './regular-page.js';

function aRegularBackup(change: Partial<RegularWork> = {}): RegularWork {
  return {
    id: BACKUP,
    extract: null,
    sync: null,
    ticketNumber: TICKET,
    customerName: 'Ada Fennick',
    device: aTicket().device,
    schedule: {
      rule: 'weekly',
      weekday: 1,
      at: 780,
      quiet: null,
      catchUp: true,
      overNetwork: false,
    },
    state: 'waiting',
    nextDue: '2026-11-30T12:00:00.000Z',
    lastDone: null,
    armedUntil: null,
    waitsFor: null,
    ...change,
  };
}
const page = (...all: RegularWork[]) => {
  const server = new FakeServer().answers(routes.regularWork, all).answers(routes.desk, aDesk());
  return { server, user: show(<RegularPage />) };
};

test('nothing regular says how it begins', async () => {
  page();
  expect(await screen.findByText(/Open a device’s ticket and choose/)).toBeDefined();
});

test('what was missed, and what it waits for, stands at the top', async () => {
  page(aRegularBackup({ state: 'missed', waitsFor: 'Type its password.' }));
  expect(await screen.findByText('Ada’s phone: Type its password.')).toBeDefined();
  expect(screen.getByText('Missed')).toBeDefined();
  expect(screen.getByText('never')).toBeDefined();
});

test('its password is tried before it is held', async () => {
  const { server, user } = page(aRegularBackup());
  await user.click(await screen.findByRole('button', { name: 'Type its password' }));
  server.answers(routes.armSchedule, new Refusal('wrong-password'));
  await write(user, screen.getByLabelText('Password of the archive'), 'not this{Enter}');
  expect(await screen.findByText('The password does not open this backup.')).toBeDefined();
  server.answers(routes.armSchedule, [aRegularBackup({ armedUntil: '2026-12-09T12:00:00.000Z' })]);
  await user.click(screen.getByRole('button', { name: 'Hold it' }));
  expect(await screen.findByText(/^password held until 9 Dec 2026/)).toBeDefined();
  expect(screen.queryByRole('button', { name: 'Type its password' })).toBeNull();
});

test('it ends in two presses', async () => {
  const { server, user } = page(aRegularBackup());
  server.answers(routes.endSchedule, []);
  await user.click(await screen.findByRole('button', { name: 'More for Ada’s phone' }));
  await user.click(await screen.findByRole('menuitem', { name: 'Not regularly any more' }));
  expect(await screen.findByText(/Nothing is taken regularly/)).toBeDefined();
});
