import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { aBerth, aDesk, anOperation, BACKUP, TICKET } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { StartRestore } from './start-restore.js';

const server = (state: 'none' | 'held' = 'none') =>
  new FakeServer()
    .answers(
      routes.desk,
      aDesk(state, state === 'held' ? '2026-11-24T16:00:00.000Z' : null, 'restore'),
    )
    .answers(routes.startRestore, anOperation({ kind: 'restore', phase: 'opening' }));
function form() {
  const onStarted = vi.fn();
  const user = show(
    <StartRestore
      backup={{ id: BACKUP }}
      archive={{ ticketNumber: TICKET, reminder: 'The harbour' }}
      berth={aBerth({ empty: true, berth: 2 })}
      onStarted={onStarted}
    />,
  );
  return { user, onStarted };
}
const start = () => screen.getByRole('button', { name: 'Restore onto berth 2' });

test('needs the last four characters of this device’s serial and the password, and then starts', async () => {
  const asked = server();
  const { user, onStarted } = form();
  await write(user, screen.getByLabelText('Password of the backup'), 'gull tide supper moss');
  expect(start()).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Serial, last 4'), 'test{Enter}');
  await expect.poll(() => onStarted).toHaveBeenCalledWith(BACKUP);
  expect(asked.sentTo(routes.startRestore)).toEqual([
    { deviceId: 'd1', serialTail: 'test', fromDesk: false, password: 'gull tide supper moss' },
  ]);
  expect(screen.getByLabelText('Password of the backup')).toHaveProperty('value', '');
});

test('another device’s serial is said to be another’s, and starts nothing', async () => {
  const asked = server();
  const { user } = form();
  await write(user, screen.getByLabelText('Password of the backup'), 'gull tide supper moss');
  await write(user, screen.getByLabelText('Serial, last 4'), '4Q81{Enter}');
  expect(screen.getByText('Not this device.')).toBeDefined();
  expect(asked.sentTo(routes.startRestore)).toEqual([]);
});

test('a wrong password is told before anything is written', async () => {
  server().answers(routes.startRestore, new Refusal('wrong-password'));
  const { user, onStarted } = form();
  await write(user, screen.getByLabelText('Serial, last 4'), 'TEST');
  await write(user, screen.getByLabelText('Password of the backup'), 'not this{Enter}');
  expect(await screen.findByText('The password does not open this backup.')).toBeDefined();
  expect(onStarted).not.toHaveBeenCalled();
});

test('a password that only the customer knows is typed by them, or still held from when they did', async () => {
  const asked = server('held');
  const { user } = form();
  await screen.findByText(/held for this/);
  await write(user, screen.getByLabelText('Serial, last 4'), 'TEST{Enter}');
  await expect
    .poll(() => asked.sentTo(routes.startRestore))
    .toMatchObject([{ fromDesk: true, password: '' }]);
});
