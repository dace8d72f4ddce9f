import { routes, type ResponseOf } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aDesk, TICKET } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { DeskCode } from './desk-code.js';

const until = '2026-11-24T12:15:00.000Z';
type State = ResponseOf<typeof routes.desk>['state'];
const server = (state: State) =>
  new FakeServer()
    .answers(routes.desk, aDesk(state, state === 'none' ? null : until))
    .answers(routes.openDesk, { address: 'http://192.0.2.4:4680/desk/abc', code: '<svg/>', until });

test('the code is shown on demand, with the address for a second screen, and waits for the customer', async () => {
  const asked = server('none');
  const user = show(<DeskCode number={TICKET} action="further" />);
  await user.click(screen.getByRole('button', { name: 'Show the code' }));
  expect(await screen.findByText('Waits for the customer.')).toBeDefined();
  expect(screen.getByRole('link').getAttribute('href')).toBe('http://192.0.2.4:4680/desk/abc');
  expect(screen.getByRole('img', { name: /opens the customer’s page/ })).toBeDefined();
  expect(screen.getByText(/point their phone at the code/)).toBeDefined();
  expect(asked.sentTo(routes.openDesk)).toEqual([{ action: 'further' }]);
});

test('an address that a phone cannot reach is not offered to one', async () => {
  const address = 'http://127.0.0.1:4680/desk/abc';
  server('none').answers(routes.openDesk, { address, code: '<svg/>', until });
  const user = show(<DeskCode number={TICKET} action="backup" />);
  await user.click(screen.getByRole('button', { name: 'Show the code' }));
  expect(await screen.findByText(/only this computer reaches it/)).toBeDefined();
  expect(screen.queryByText(/point their phone/)).toBeNull();
});

test('a password that was typed is told, and not shown', async () => {
  server('given');
  show(<DeskCode number={TICKET} action="backup" />);
  expect(await screen.findByText(/has typed a password. Start now/)).toBeDefined();
  expect(screen.queryByRole('img')).toBeNull();
});

test('a code of before is not shown again when nobody holds the page open', async () => {
  server('waiting');
  show(<DeskCode number={TICKET} action="backup" />);
  expect(screen.getByRole('button', { name: 'Show the code' })).toBeDefined();
  expect(screen.queryByRole('img')).toBeNull();
});
