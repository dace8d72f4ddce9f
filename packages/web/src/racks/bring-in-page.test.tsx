import { routes, type Stranger } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aRack, anOperation } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { BringInPage } from './bring-in-page.js';

const alder = aRack();
const stranger = (change: Partial<Stranger> = {}): Stranger => ({
  ...{ rackId: alder.id, rackName: 'Alder', folder: 'f3a9c1f3a9c1', path: null },
  ...{ storedBytes: 5e9, backups: 2, missing: 0, known: 'unknown', deviceName: '', problem: '' },
  ...change,
});

function page(rows: Stranger[]) {
  const server = new FakeServer()
    .answers(routes.racks, [alder])
    .answers(routes.strangers, rows)
    .answers(routes.startBringIn, anOperation({ kind: 'bringIn' }));
  return { server, user: show(<BringInPage />) };
}

test('what is not known is brought in with the password that was typed, all of it at one press', async () => {
  const { server, user } = page([stranger(), stranger({ folder: 'other', known: 'same' })]);
  expect(await screen.findByText('f3a9c1f3a9c1')).toBeDefined();
  expect(screen.getByText('A copy of what is known')).toBeDefined();
  await write(user, screen.getByLabelText('Password of the archive'), 'four words');
  await user.click(screen.getByRole('button', { name: 'Bring 2 archives in' }));
  const place = { rackId: alder.id, path: null, password: 'four words' };
  expect(server.sentTo(routes.startBringIn)).toEqual([
    { ...place, folder: 'f3a9c1f3a9c1' },
    { ...place, folder: 'other' },
  ]);
});

test('one that does not open says so beside it, and can be tried again', async () => {
  const { server, user } = page([stranger()]);
  server.answers(routes.startBringIn, new Refusal('wrong-password'));
  await user.click(await screen.findByRole('button', { name: 'Bring 1 archive in' }));
  expect(await screen.findByText(/did not come in/)).toBeDefined();
  expect(await screen.findByText(/The password does not open/)).toBeDefined();
});

test('a folder of this computer is looked through, and goes onto a rack', async () => {
  const { server, user } = page([stranger({ rackId: null, rackName: '', path: '/media/lab/x' })]);
  await write(user, screen.getByLabelText('A folder of this computer'), '/media/lab');
  await user.click(screen.getByRole('button', { name: 'Look there' }));
  expect(await screen.findByText('/media/lab/x')).toBeDefined();
  expect(await screen.findByLabelText('Onto')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Bring 1 archive in' }));
  expect(server.sentTo(routes.startBringIn)).toEqual([
    { rackId: alder.id, folder: null, path: '/media/lab/x', password: '' },
  ]);
});
