import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aTicket } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { AgreeStep } from './agree-step.js';

const said = (given: boolean) => ({
  kind: 'look-in' as const,
  given,
  days: null,
  by: 'Wren',
  at: '2026-11-24T12:00:00.000Z',
});

test('who noted it and when stands beside each agreement, and it is taken back in one press', async () => {
  const asked = new FakeServer().answers(routes.noteAgreement, aTicket());
  const user = show(<AgreeStep ticket={aTicket({ agreements: [said(true)] })} open={false} />);
  await user.click(screen.getByRole('button', { name: 'Who, when, and change it' }));
  const line = screen.getByRole('button', { name: /^Take it back/ }).closest('li');
  expect(line?.textContent).toMatch(/^Yes.*Wren, 24 Nov 2026/);
  await user.click(screen.getByRole('button', { name: /^Take it back/ }));
  expect(asked.sentTo(routes.noteAgreement)).toEqual([
    { kind: 'look-in', given: false, days: null },
  ]);
});

test('the newest word counts', async () => {
  new FakeServer();
  const ticket = aTicket({ agreements: [said(false), said(true)] });
  const user = show(<AgreeStep ticket={ticket} open={false} />);
  await user.click(screen.getByRole('button', { name: 'Who, when, and change it' }));
  expect(screen.queryByRole('button', { name: /^Take it back/ })).toBeNull();
});

test('how long it is kept is agreed in days, and in nothing else', async () => {
  const asked = new FakeServer().answers(routes.noteAgreement, aTicket());
  const user = show(<AgreeStep ticket={aTicket()} open={false} />);
  await user.click(screen.getByRole('button', { name: 'Who, when, and change it' }));
  const days = screen.getByLabelText('days');
  const agreed = () => screen.getByRole('button', { name: /^Note that they agree.*kept/i });
  await user.clear(days);
  expect(agreed()).toHaveProperty('disabled', true);
  await write(user, days, '90');
  await user.click(agreed());
  expect(asked.sentTo(routes.noteAgreement)).toEqual([{ kind: 'keep', given: true, days: 90 }]);
});
