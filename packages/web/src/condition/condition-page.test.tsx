import { routes, type SavesView } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aSession } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { ConditionPage } from './condition-page.js';

const identity = `AGE-SECRET-KEY-1${'QPZRY9X8'.repeat(7)}`;
const recipient = `age1${'qpzry9x8'.repeat(7)}`;
const noKey: SavesView = {
  ...{ key: null, running: false },
  racks: [
    {
      ...{ rackId: '00000000-0000-4000-8000-000000000001', rackName: 'Alder', present: true },
      ...{ savedAt: null, bytes: null, problem: null },
    },
  ],
};
const withKey = { ...noKey, key: { recipient, since: '2026-11-28T09:00:00.000Z' } };
const wrong = {
  ...{ about: 'Saved catalogue', state: 'wrong' as const, what: 'The catalogue is not saved.' },
  next: 'Make the recovery key.',
};
const well = { about: 'Clock', state: 'well' as const, what: 'As it should be.', next: '' };
const server = (saves: SavesView, findings = [wrong, well]) =>
  new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.condition, findings)
    .answers(routes.saves, saves);

test('the worst is what to do now; each thing is told by word and mark', async () => {
  server(noKey);
  show(<ConditionPage />);
  expect(await screen.findByText('Saved catalogue: Make the recovery key.')).toBeDefined();
  expect(screen.getByText('Wrong')).toBeDefined();
  expect(screen.getByText('Well')).toBeDefined();
});

test('nothing to do is said too', async () => {
  server(withKey, [well]);
  show(<ConditionPage />);
  expect(await screen.findByText(/^Nothing to do/)).toBeDefined();
});

test('a recovery key is shown once, and used when its end was read from the paper', async () => {
  const asked = server(noKey)
    .answers(routes.offerRecoveryKey, { identity, recipient })
    .answers(routes.useRecoveryKey, withKey);
  const user = show(<ConditionPage />);
  await user.click(await screen.findByRole('button', { name: 'Make the recovery key' }));
  await user.click(await screen.findByRole('button', { name: 'Make it and show it' }));
  const tail = await screen.findByLabelText(/^Its last 6 signs/);
  await write(user, tail, 'wrongs{Enter}');
  expect(await screen.findByText('That is not how it ends.')).toBeDefined();
  expect(asked.sentTo(routes.useRecoveryKey)).toEqual([]);
  await user.clear(tail);
  await write(user, tail, `${identity.slice(-6).toLowerCase()}{Enter}`);
  expect(await screen.findByText(/Sealed to the recovery key of/)).toBeDefined();
  // Its half that opens never goes back.
  expect(JSON.stringify(asked.asked)).not.toContain(identity);
  expect(asked.sentTo(routes.useRecoveryKey)).toEqual([{ recipient }]);
});

test('a save that cannot be put anywhere says why', async () => {
  server(withKey).answers(routes.saveCatalogue, new Refusal('rack-not-here'));
  const user = show(<ConditionPage />);
  await user.click(await screen.findByRole('button', { name: 'Save it now' }));
  expect(await screen.findByText(/^Connect the drive/)).toBeDefined();
});
