import { routes, type DeskAction } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { show, write } from '../testing/show.js';
import { DeskPage } from './desk-page.js';

const TOKEN = 'abcdefghijklmnopqrstuv';
const page = (action: DeskAction, seen: { openings?: number; openedBy?: string[] } = {}) =>
  new FakeServer()
    .answers(routes.customerDesk, {
      shopName: 'Quay Street Repairs',
      device: 'Vireo Arc 7',
      action,
      until: '2026-11-24T12:15:00.000Z',
      ...{ openings: 1, openedBy: [], ...seen },
    })
    .answers(routes.giveAtDesk, {});
const send = () => screen.getByRole('button', { name: 'Use this password' });

test('a customer chooses a password, twice, with a reminder that the shop may see', async () => {
  const asked = page('backup');
  const user = show(<DeskPage token={TOKEN} />);
  await write(user, await screen.findByLabelText('Password'), 'gull tide supper moss');
  expect(send()).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('The same again'), 'gull tide supper moss');
  await write(user, screen.getByLabelText('A reminder for yourself'), 'The harbour{Enter}');
  expect(await screen.findByText('Thank you. You can close this page.')).toBeDefined();
  expect(screen.queryByLabelText('Password')).toBeNull();
  expect(asked.sentTo(routes.giveAtDesk)).toEqual([
    { password: 'gull tide supper moss', reminder: 'The harbour' },
  ]);
  expect(asked.asked.every(({ path }) => !path.includes('gull'))).toBe(true);
});

test('a PIN is refused before it is sent', async () => {
  const asked = page('backup');
  const user = show(<DeskPage token={TOKEN} />);
  await write(user, await screen.findByLabelText('Password'), '1234');
  await write(user, screen.getByLabelText('The same again'), '1234{Enter}');
  expect(send()).toHaveProperty('disabled', true);
  expect(asked.sentTo(routes.giveAtDesk)).toEqual([]);
});

test('the password of an archive that is there is typed once, whatever it is', async () => {
  const asked = page('proof');
  const user = show(<DeskPage token={TOKEN} />);
  expect(await screen.findByText(/prove that its backup opens/)).toBeDefined();
  expect(screen.queryByLabelText('The same again')).toBeNull();
  await write(user, screen.getByLabelText('Password'), 'old one{Enter}');
  await screen.findByText('Thank you. You can close this page.');
  expect(asked.sentTo(routes.giveAtDesk)).toEqual([{ password: 'old one', reminder: '' }]);
});

test('a page that is not open any more says so', async () => {
  page('backup').answers(
    routes.customerDesk,
    new Refusal('not-found', { what: 'This page is not open any more.' }),
  );
  show(<DeskPage token={TOKEN} />);
  expect(await screen.findByText('This page is not open any more.')).toBeDefined();
  expect(screen.queryByLabelText('Password')).toBeNull();
});

test('names the shop, the device and the one thing that it is for, and until when it is open', async () => {
  page('restore');
  show(<DeskPage token={TOKEN} />);
  expect(await screen.findByText(/put its backup onto a device/)).toBeDefined();
  expect(screen.getByText('Vireo Arc 7')).toBeDefined();
  expect(screen.getByRole('heading', { name: 'Quay Street Repairs' })).toBeDefined();
  expect(screen.getByText(/24 Nov 2026/)).toBeDefined();
});

test('says that somebody opened it before, and who of the shop is signed in there', async () => {
  page('backup', { openings: 2, openedBy: ['Wren Gorsegate'] });
  show(<DeskPage token={TOKEN} />);
  expect(await screen.findByText(/was opened before/)).toBeDefined();
  expect(screen.getByText(/Wren Gorsegate of the shop is signed in/)).toBeDefined();
});
