import { routes, type FurtherCost } from '@bright-cellar/contract';
import { deviceFacts } from '@bright-cellar/core/testing';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { ARCHIVE, aTicket, aDesk } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { KnownArchiveForm } from './known-archive-form.js';

const archive = {
  id: ARCHIVE,
  rackName: 'Alder',
  takenAt: '2026-10-02T09:00:00.000Z',
  reminder: 'Four words, one is a fruit',
};
const PASSWORD = 'copper lantern nine wrens';
const range = (likely: number) => ({ low: likely * 0.9, likely, high: likely * 1.1 });
const cost: FurtherCost = {
  same: { items: 4_210, bytes: 9e9 },
  toSend: { items: 12, bytes: 48e6 },
  estimate: {
    at: '2026-11-24T12:00:00.000Z',
    items: 12,
    bytes: 48e6,
    stored: range(40e6),
    ms: range(30_000),
    linkMs: 25_000,
  },
  rackName: 'Alder',
  fits: true,
  freeAfterLow: 3e11,
  freeAfterHigh: 3e11,
};
const server = () =>
  new FakeServer()
    .answers(routes.plans, [])
    .answers(routes.desk, aDesk())
    .answers(routes.furtherCost, cost);
const form = () =>
  show(
    <KnownArchiveForm
      ticket={aTicket()}
      archive={archive}
      device={deviceFacts()}
      readiness={[]}
      onNew={() => undefined}
    />,
  );
const showIt = () => screen.getByRole('button', { name: 'Show what will be sent' });

test('what is new, what that takes and how long it lasts is said before it starts, once the archive is open', async () => {
  const asked = server();
  const user = form();
  expect(showIt()).toHaveProperty('disabled', true);
  expect(screen.getByText('Reminder: Four words, one is a fruit')).toBeDefined();
  await write(user, screen.getByLabelText('Password of the archive'), PASSWORD);
  await user.click(showIt());
  const figures = await screen.findByRole('status');
  expect(figures.textContent).toMatch(/48\.0 MB.*in 12 items/);
  expect(figures.textContent).toMatch(/9\.00 GB.*in 4,210 items/);
  expect(figures.textContent).toMatch(/36\.0–44\.0 MB/);
  expect(figures.textContent).not.toMatch(/no room/);
  expect(asked.sentTo(routes.furtherCost)[0]).toMatchObject({
    archiveId: ARCHIVE,
    mode: 'everything',
    password: PASSWORD,
  });
});

test('a rack that has no room for it says so, and what to do', async () => {
  server().answers(routes.furtherCost, { ...cost, fits: false });
  const user = form();
  await write(user, screen.getByLabelText('Password of the archive'), PASSWORD);
  await user.click(showIt());
  expect((await screen.findByText(/has no room for it/)).parentElement?.textContent).toMatch(
    /make room there, take less, or begin a new archive/,
  );
});

test('figures of another choice do not stay', async () => {
  server();
  const user = form();
  await write(user, screen.getByLabelText('Password of the archive'), PASSWORD);
  await user.click(showIt());
  await screen.findByText('Will be sent');
  await user.click(screen.getByRole('radio', { name: /Quick/ }));
  expect(screen.queryByText('Will be sent')).toBeNull();
});

test('a wrong password says what is safe, and the backup is not started', async () => {
  const asked = server().answers(routes.startBackup, new Refusal('wrong-password'));
  const user = form();
  await write(user, screen.getByLabelText('Password of the archive'), 'not this one{Enter}');
  expect(await screen.findByText('The password does not open this backup.')).toBeDefined();
  expect(screen.getByText(/Nothing was written or changed/)).toBeDefined();
  expect(asked.asked.every(({ path }) => !path.includes('not'))).toBe(true);
});

test('a password that the customer typed on their own page is used without anybody seeing it', async () => {
  const asked = server().answers(routes.desk, aDesk('held', '2026-11-24T16:00:00.000Z', 'further'));
  const user = form();
  await screen.findByText(/typed is held for this/);
  await user.click(showIt());
  await screen.findByText('Will be sent');
  expect(asked.sentTo(routes.furtherCost)[0]).toMatchObject({ fromDesk: true, password: '' });
});
