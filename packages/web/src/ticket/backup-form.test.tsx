import { routes, type PlanCost, type Ticket } from '@bright-cellar/contract';
import { screen, within } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import {
  aBench,
  aBerth,
  anOperation,
  aRack,
  aTicket,
  ARCHIVE,
  BACKUP,
  TICKET,
  aDesk,
} from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { BackupForm } from './backup-form.js';

const PASSWORD = 'gull tide supper moss';
const alder = aRack();
const birch = aRack({ id: BACKUP, name: 'Birch', free: 3e10 });
const cost = (change: Partial<PlanCost> = {}): PlanCost => ({
  estimate: {
    at: '2026-11-24T12:00:00.000Z',
    items: 3_371,
    bytes: 12e9,
    stored: { low: 9e9, likely: 10e9, high: 11e9 },
    ms: { low: 400_000, likely: 500_000, high: 600_000 },
    linkMs: 450_000,
  },
  classes: [],
  linkRate: 25e6,
  pastRuns: 0,
  racks: [
    { rackId: alder.id, fits: true, freeAfterLow: 389e9, freeAfterHigh: 391e9 },
    { rackId: birch.id, fits: false, freeAfterLow: 19e9, freeAfterHigh: 21e9 },
  ],
  proposal: { rackId: alder.id, reason: 'Alder is the only rack with room for it.' },
  name: '26110001_vireo-arc-7',
  ...change,
});
function form(
  berth = aBerth({}, TICKET),
  more: Partial<PlanCost> = {},
  knownArchive: Ticket['knownArchive'] = null,
) {
  const ticket = aTicket({ knownArchive });
  const server = new FakeServer()
    .answers(routes.bench, aBench(berth))
    .answers(routes.racks, [alder, birch])
    .answers(routes.plans, [])
    .answers(routes.desk, aDesk())
    .answers(routes.planCost, cost(more))
    .answers(routes.ticket, ticket)
    .answers(routes.startBackup, anOperation());
  return { server, user: show(<BackupForm ticket={ticket} />) };
}
const start = () => screen.getByRole('button', { name: 'Take the full backup' });

test('says how large, how long and where with the reason, and starts with a password typed twice', async () => {
  const { server, user } = form();
  expect(await screen.findByText('9.00–11.0 GB')).toBeDefined();
  expect(screen.getByText(/Alder is the only rack with room/)).toBeDefined();
  expect(screen.getByText('26110001_vireo-arc-7')).toBeDefined();
  const racks = within(screen.getByRole('radiogroup', { name: 'Rack' }));
  expect(racks.getByRole('radio', { name: /Birch.*No room/ })).toHaveProperty('disabled', true);
  expect(start()).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Password of the backup'), PASSWORD);
  await write(user, screen.getByLabelText('The same again'), PASSWORD);
  await choose(user, 'Who holds it', 'The customer and the shop');
  await write(user, screen.getByLabelText('Reminder'), 'The harbour{Enter}');
  await screen.findByDisplayValue('The harbour');
  expect(server.sentTo(routes.startBackup)).toEqual([
    {
      mode: 'everything',
      choice: {},
      encrypted: true,
      accepted: [],
      rackId: alder.id,
      archiveId: null,
      fromDesk: false,
      password: PASSWORD,
      passwordHolder: 'both',
      reminder: 'The harbour',
    },
  ]);
  // It is not kept in the form once the backup runs.
  expect(screen.getByLabelText('Password of the backup')).toHaveProperty('value', '');
});

test('what is lost without a step on the device is accepted one by one, in words', async () => {
  const berth = aBerth({ wearable: 'Wrist 3' }, TICKET);
  const { server, user } = form(berth);
  const before = await screen.findByRole('list', { name: 'Before it starts' });
  await user.click(within(before).getByRole('checkbox'));
  await write(user, screen.getByLabelText('Password of the backup'), PASSWORD);
  await write(user, screen.getByLabelText('The same again'), `${PASSWORD}{Enter}`);
  await screen.findByText('9.00–11.0 GB');
  expect(server.sentTo(routes.startBackup)[0]?.accepted).toEqual(['wearable']);
});

test('where no rack has room it says so, and nothing can be started', async () => {
  const racks = [alder, birch].map((r) => ({
    rackId: r.id,
    fits: false,
    freeAfterLow: 0,
    freeAfterHigh: 0,
  }));
  const { user } = form(undefined, { racks, proposal: null });
  expect(await screen.findByText(/No rack has room for this/)).toBeDefined();
  await write(user, screen.getByLabelText('Password of the backup'), PASSWORD);
  await write(user, screen.getByLabelText('The same again'), PASSWORD);
  expect(start()).toHaveProperty('disabled', true);
});

test('a refusal says what is safe and keeps what was typed', async () => {
  const { server, user } = form();
  server.answers(routes.startBackup, new Refusal('rack-full', { safe: 'Nothing was started.' }));
  await screen.findByText('9.00–11.0 GB');
  await write(user, screen.getByLabelText('Password of the backup'), PASSWORD);
  await write(user, screen.getByLabelText('The same again'), `${PASSWORD}{Enter}`);
  expect(await screen.findByText('Nothing was started.')).toBeDefined();
  expect(screen.getByLabelText('Password of the backup')).toHaveProperty('value', PASSWORD);
});

test('a device whose archive is there goes into it, unless somebody begins a new one', async () => {
  const { user } = form(
    undefined,
    {},
    {
      id: ARCHIVE,
      rackName: 'Alder',
      takenAt: '2026-10-02T09:00:00.000Z',
      reminder: '',
    },
  );
  expect(await screen.findByText('Into its archive on Alder')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Begin a new archive instead' }));
  expect(await screen.findByLabelText('The same again')).toBeDefined();
});
