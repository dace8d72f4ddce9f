import { routes } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { choose, show } from '../testing/show.js';
import { aSession, houseRules } from '../testing/made-up.js';
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
  await user.type(field, '{{customer}_{{ticket}_{{date}');
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
  await user.type(await pattern(), '{{moon}');
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
