import { routes, type NetworkView } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aSession } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { NetworkPage } from './network-page.js';

const alone: NetworkView = {
  ...{ rules: { mode: 'alone' }, addresses: [], deskAddress: 'http://127.0.0.1:4684' },
  ...{ localPorts: { shop: 4680, desk: 4684 }, suggested: ['counter.local', '192.168.7.20'] },
  ...{ certificate: null, authority: null },
};
const until = '2027-02-26T09:00:00.000Z';
const own: NetworkView = {
  ...{ ...alone, rules: { mode: 'own', hosts: ['counter.local'] } },
  ...{ addresses: ['https://counter.local:4683'], deskAddress: 'https://counter.local:4684' },
  certificate: { until, fingerprint: 'AA:BB', uncovered: [] },
  authority: { until, fingerprint: 'CC:DD' },
};
const server = (view: NetworkView) =>
  new FakeServer().answers(routes.session, aSession()).answers(routes.network, view);

test('a shop that is alone lets others in, under the names that this computer has', async () => {
  const asked = server(alone).answers(routes.changeNetwork, own);
  const user = show(<NetworkPage />);
  await screen.findByText(/^Only this computer reaches the program\./);
  await choose(
    user,
    'Who reaches the program',
    'Over TLS, with certificates that this program makes itself',
  );
  await user.click(screen.getByRole('button', { name: 'Be reached so' }));
  expect(asked.sentTo(routes.changeNetwork)).toEqual([
    { mode: 'own', hosts: ['counter.local', '192.168.7.20'] },
  ]);
  // And says how they come to trust it.
  expect(await screen.findByText('CC:DD')).toBeDefined();
  expect(screen.getByRole('link', { name: /Fetch the authority/ }).getAttribute('href')).toBe(
    '/authority.crt',
  );
});

test('a certificate that was given is kept, and its key is not shown again', async () => {
  const given: NetworkView = {
    ...own,
    rules: { mode: 'given', hosts: ['a.example'] },
    authority: null,
  };
  const asked = server(given).answers(routes.giveCertificate, given);
  const user = show(<NetworkPage />);
  await write(user, await screen.findByLabelText(/^Certificate, with/), 'CERT');
  await write(user, screen.getByLabelText(/^Its key/), 'KEY');
  await user.click(screen.getByRole('button', { name: 'Keep this certificate' }));
  expect(asked.sentTo(routes.giveCertificate)).toEqual([{ cert: 'CERT', key: 'KEY' }]);
  expect(await screen.findByText(/^Kept\./)).toBeDefined();
  expect(screen.getByLabelText(/^Its key/)).toHaveProperty('value', '');
});

test('who does not decide it is told who does', async () => {
  new FakeServer().answers(routes.session, aSession('technician'));
  show(<NetworkPage />);
  expect(await screen.findByText('Only keepers may change this.')).toBeDefined();
});
