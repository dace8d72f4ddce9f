import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { choose, show, write } from '../testing/show.js';
import { aBench, aSession, houseRules } from '../testing/made-up.js';
import { SettingsPage } from './settings-page.js';

const rules = houseRules;
function page(role: 'keeper' | 'technician' = 'keeper') {
  const server = new FakeServer()
    .answers(routes.session, aSession(role))
    .answers(routes.settings, rules)
    .answers(routes.escrow, { people: [], since: null })
    .answers(routes.saveSettings, (wanted) => wanted);
  return { server, user: show(<SettingsPage />) };
}
const pattern = () => screen.findByLabelText('Pattern');
const save = () => screen.getByRole('button', { name: 'Save the house rules' });

test('a name’s pattern shows at once what an archive would be called', async () => {
  const { server, user } = page();
  const field = await pattern();
  await user.clear(field);
  await write(user, field, '{{customer}_{{ticket}_{{date}');
  expect(screen.getByText('tamsin-orchardgate_26110007_2026-11-25')).toBeDefined();
  await choose(user, 'When it may be updated here', 'Only when a restore needs it');
  await user.click(save());
  expect(await screen.findByText('Saved.')).toBeDefined();
  expect(server.sentTo(routes.saveSettings)).toEqual([
    { ...rules, namePattern: '{customer}_{ticket}_{date}', updatePolicy: 'only-for-a-restore' },
  ]);
});

test('who may not change them sees them, and who may', async () => {
  page('technician');
  await pattern();
  expect(await screen.findByText('Only keepers may change this.')).toBeDefined();
  expect(save()).toHaveProperty('disabled', true);
});

test('a pattern that names nothing known is not saved', async () => {
  const { server, user } = page();
  await write(user, await pattern(), '{{moon}');
  expect(save()).toHaveProperty('disabled', true);
  expect(screen.getByLabelText('Pattern').getAttribute('aria-invalid')).toBe('true');
  expect(server.sentTo(routes.saveSettings)).toEqual([]);
});

test('a shop without escrow says what that means, and how it is set up', async () => {
  const { server, user } = page();
  expect(await screen.findByText(/a lost password is lost/)).toBeDefined();
  server.answers(routes.setUpEscrow, new Refusal('two-people'));
  await user.click(screen.getByRole('button', { name: 'Set it up …' }));
  expect(screen.getByRole('button', { name: 'Set it up' })).toHaveProperty('disabled', true);
});

test('where drives appear: a folder on each line; what is none is said and not saved', async () => {
  const { server, user } = page();
  await pattern();
  const places = screen.getByLabelText('Where drives and storage appear');
  await user.clear(places);
  await write(user, places, '/srv/cards/*{Enter}cards');
  expect(screen.getByText('The whole path of a folder, as /media.')).toBeDefined();
  expect(save()).toHaveProperty('disabled', true);
  await write(user, places, '{Backspace}{Backspace}{Backspace}{Backspace}{Backspace} {Enter}');
  await user.click(save());
  expect(await screen.findByText('Saved.')).toBeDefined();
  expect(server.sentTo(routes.saveSettings)[0]?.bench.places).toEqual(['/srv/cards/*']);
});

test('another adapter is named by its address and token, and the program’s own again', async () => {
  const { server, user } = page();
  server
    .answers(routes.bench, aBench())
    .answers(routes.adapter, { named: null })
    .answers(routes.nameAdapter, new Refusal('adapter-not-taken'))
    .answers(routes.takeOwnAdapter, {});
  const own = await screen.findByText(/The adapter that comes with the program: it answers/);
  const token = screen.getByLabelText<HTMLInputElement>('Its token');
  const use = screen.getByRole('button', { name: 'Try it, and use it' });
  await write(user, screen.getByLabelText('Another adapter’s address'), 'http://bench.example');
  await write(user, token, 'sixteen-letters-or-more');
  await user.click(use);
  expect(screen.getByText(/Over the network with https only/)).toBeDefined();
  expect(server.sentTo(routes.nameAdapter)).toEqual([]);
  await user.clear(screen.getByLabelText('Another adapter’s address'));
  await write(user, screen.getByLabelText('Another adapter’s address'), 'https://bench.example');
  await user.click(use);
  expect(await screen.findByText('No adapter answers there.')).toBeDefined();
  expect(own).toBeDefined();

  server.answers(routes.nameAdapter, { berths: 3 });
  await user.click(use);
  expect(await screen.findByText(/It answers, and has 3 berths/)).toBeDefined();
  expect(screen.getByText(/^https:\/\/bench.example/)).toBeDefined();
  // The secret is on no screen any more.
  expect(token.value).toBe('');
  await user.click(screen.getByRole('button', { name: 'Use the program’s own' }));
  expect(await screen.findByText(/The adapter that comes with the program/)).toBeDefined();
});

test('a logo is shown as it was drawn; one that is too large is not even sent', async () => {
  const { server, user } = page();
  server
    .answers(routes.logo, { png: null })
    .answers(routes.giveLogo, ({ image }) => ({ png: image }));
  const give = async (bytes: number) =>
    user.upload(
      await screen.findByLabelText('Picture for the papers'),
      new File([new Uint8Array(bytes)], 'lamp.png', { type: 'image/png' }),
    );
  await give(5_000_001);
  expect(await screen.findByText('That picture is larger than 5 MB.')).toBeDefined();
  expect(server.sentTo(routes.giveLogo)).toEqual([]);
  await give(3);
  const shown = await screen.findByRole('img', { name: 'The logo, as it stands on papers' });
  expect(shown.getAttribute('src')).toBe('data:image/png;base64,AAAA');
});
