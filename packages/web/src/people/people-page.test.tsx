import { routes, type PersonRow, type RoleRow } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test } from 'vitest';
import { MayButton } from '../account/may-button.js';
import { FakeServer } from '../testing/fake-server.js';
import { aSession, someRoles } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { PeoplePage } from './people-page.js';

const person = (n: string, change: Partial<PersonRow> = {}): PersonRow => ({
  ...{
    id: `00000000-0000-4000-8000-00000000000${n}`,
    name: `Person ${n}`,
    login: `p${n}`,
    role: 'technician',
    leftAt: null,
  },
  ...{ since: '2026-11-01T09:00:00.000Z', seenAt: null },
  ...change,
});
const wren = person('1', { name: 'Wren', role: 'keeper' });

test('somebody is added with a role, changed, and leaves only when asked twice', async () => {
  const joss = person('2', { name: 'Joss' });
  const server = new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.roles, someRoles())
    .answers(routes.people, [wren])
    .answers(routes.addPerson, [wren, joss])
    .answers(routes.personLeaves, [wren, { ...joss, leftAt: '2026-11-28T09:00:00.000Z' }]);
  const user = show(<PeoplePage />);
  expect(await screen.findByText(/One person keeps this shop/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Add somebody' }));
  await write(user, await screen.findByLabelText('Name'), 'Joss');
  await write(user, screen.getByLabelText('Name to sign in with'), 'joss');
  await write(user, screen.getByLabelText('First password'), 'lantern moths ferry nine');
  await choose(user, 'Works as', 'Trainee');
  await user.click(screen.getByRole('button', { name: 'Add them' }));
  expect(server.sentTo(routes.addPerson)).toEqual([
    { name: 'Joss', login: 'joss', password: 'lantern moths ferry nine', role: 'trainee' },
  ]);
  await user.click(await screen.findByText('Joss'));
  await user.click(await screen.findByRole('button', { name: /work here no longer/ }));
  expect(server.sentTo(routes.personLeaves)).toEqual([]);
  await user.click(screen.getByRole('button', { name: 'They leave' }));
  expect(await screen.findByText('Were here')).toBeDefined();
  expect(await screen.findByText('left 28 Nov 2026')).toBeDefined();
});

test('who forgot their password is given another, and Enter gives it', async () => {
  const server = new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.roles, someRoles())
    .answers(routes.people, [wren])
    .answers(routes.givePassword, [wren]);
  const user = show(<PeoplePage />);
  await user.click(await screen.findByText('Wren'));
  await user.click(await screen.findByRole('button', { name: /forgot/ }));
  await write(
    user,
    await screen.findByLabelText('First password'),
    'copper boats under snow{Enter}',
  );
  expect(server.sentTo(routes.givePassword)).toEqual([{ password: 'copper boats under snow' }]);
});

test('what is not open to somebody says to whom it is', async () => {
  new FakeServer().answers(routes.session, aSession('trainee'));
  show(<MayButton permission="dispose">Destroy it</MayButton>);
  expect(await screen.findByText('Only keepers and technicians may.')).toBeDefined();
  expect(screen.getByRole('button', { name: 'Destroy it' })).toHaveProperty('disabled', true);
});

test('who may not say who works here sees what each role may', async () => {
  new FakeServer().answers(routes.session, aSession('trainee')).answers(routes.roles, someRoles());
  show(<PeoplePage />);
  expect(await screen.findByText('Only keepers may change this.')).toBeDefined();
  expect(await screen.findByRole('columnheader', { name: 'Trainee' })).toBeDefined();
  expect(screen.queryByRole('button', { name: 'Make a role' })).toBeNull();
});

test('a role of the shop’s own is made out of single permissions, changed, and goes when nobody has it', async () => {
  const own: RoleRow = {
    ...{ id: '00000000-0000-4000-8000-000000000009', name: 'Archivist', builtIn: false },
    ...{ permissions: ['see', 'copy', 'own-account'], people: 0 },
  };
  const server = new FakeServer()
    .answers(routes.session, aSession())
    .answers(routes.people, [wren])
    .answers(routes.roles, someRoles())
    .answers(routes.addRole, [...someRoles(), own])
    .answers(routes.dropRole, someRoles());
  const user = show(<PeoplePage />);
  await user.click(await screen.findByRole('button', { name: 'Make a role' }));
  await write(user, await screen.findByLabelText('What it is called'), 'Archivist');
  await user.click(screen.getByLabelText('Take backups, and what is taken regularly'));
  await user.click(screen.getByRole('button', { name: 'Make it' }));
  const [made] = server.sentTo(routes.addRole);
  expect(made?.name).toBe('Archivist');
  expect(made?.permissions).not.toContain('back-up');
  expect(made?.permissions).toContain('copy');
  await user.click(await screen.findByRole('button', { name: 'Change what Archivist may do' }));
  await user.click(await screen.findByRole('button', { name: 'Take this role away' }));
  expect(server.sentTo(routes.dropRole)).toHaveLength(1);
});
