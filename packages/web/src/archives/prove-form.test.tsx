import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { anOperation, BACKUP, TICKET, aDesk } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { ProveForm } from './prove-form.js';

const server = () =>
  new FakeServer()
    .answers(routes.desk, aDesk())
    .answers(routes.startProve, anOperation({ kind: 'prove', phase: 'opening' }));
const form = () =>
  show(<ProveForm ticket={TICKET} backupId={BACKUP} reminder="Four words, one is a fruit" />);
const typed = () => screen.getByLabelText('Password of the backup');

test('the usual proof is the full one: it says what it costs, and that only it makes an erase safe', async () => {
  const asked = server();
  const user = form();
  expect(screen.getByText(/Only this makes it safe to erase a device/)).toBeDefined();
  expect(screen.getByText('Reminder: Four words, one is a fruit')).toBeDefined();
  await write(user, typed(), 'gull tide supper moss{Enter}');
  await screen.findByDisplayValue('');
  expect(asked.sentTo(routes.startProve)).toEqual([
    { level: 'full', fromDesk: false, password: 'gull tide supper moss' },
  ]);
});

test('bytes are looked at without any password', async () => {
  const asked = server();
  const user = form();
  await choose(user, 'How closely', 'Every stored byte, no password');
  expect(screen.queryByLabelText('Password of the backup')).toBeNull();
  expect(screen.getByText(/does not try the password/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Look at it' }));
  expect(asked.sentTo(routes.startProve)).toEqual([
    { level: 'bytes', fromDesk: false, password: '' },
  ]);
});

test('a wrong password is said at once, and can be typed again', async () => {
  const asked = server().answers(routes.startProve, new Refusal('wrong-password'));
  const user = form();
  await write(user, typed(), '1234{Enter}');
  expect(await screen.findByText('The password does not open this backup.')).toBeDefined();
  expect(screen.getByText(/Nobody can recover a lost one/)).toBeDefined();
  await write(user, typed(), '5{Enter}');
  expect(asked.sentTo(routes.startProve).map((p) => p.password)).toEqual(['1234', '12345']);
});
