import { routes, type MergeLines, type SamePersons as Told } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import type { SyncSetup } from '@bright-cellar/core';
import { expect, test, vi } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { BACKUP as PARTNER } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { MergeLedger } from './merge-ledger.js';
import { OpenServer } from './open-server.js';
import { SamePersons } from './same-persons.js';
import { SetUp } from './sync-setup.js';

const side = (note: string | null, step: MergeLines['lines'][0]['device']['step'] = 'nothing') => ({
  parts:
    note === null
      ? null
      : [
          { field: 'name' as const, words: 'Ana Fernhill' },
          { field: 'note' as const, words: note },
        ],
  ...{ step, fields: [] },
});
const lines: MergeLines = {
  ...{ total: 2, open: 1 },
  lines: [
    {
      ...{ at: 4, title: 'Ana Fernhill', device: side('Mill'), partner: side('Weir') },
      ...{ conflict: { fields: ['note'], removedOn: null }, isOpen: true },
    },
    {
      ...{ at: 7, title: 'Ben Tarn', device: side(null, 'add'), partner: side('Tarn') },
      ...{ conflict: null, isOpen: false },
    },
  ],
};

test('both sides stand beside each other; what waits is decided, one or all', async () => {
  const server = new FakeServer().answers(routes.mergeLines, lines).answers(routes.decideMerge, {});
  const aside = { device: 3, partner: 0 };
  const ledger = { partner: PARTNER, other: 'server' as const, kind: 'contacts' as const, aside };
  const user = show(<MergeLedger {...ledger} read="1" />);
  expect(await screen.findByText('They differ')).toBeDefined();
  expect(
    screen.getByText(
      '3 entries longer than the device keeps: shortened there, whole on the other side.',
    ),
  ).toBeDefined();
  expect(screen.getByText('Mill')).toBeDefined();
  expect(screen.getByText('← new')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Keep both: Ana Fernhill' }));
  await user.click(screen.getByRole('button', { name: 'All 1: as in their books' }));
  await expect
    .poll(() => server.sentTo(routes.decideMerge))
    .toEqual([
      { kind: 'contacts', at: 4, decision: 'both' },
      { kind: 'contacts', at: null, decision: 'partner' },
    ]);
  await user.click(screen.getByLabelText('Only where they differ'));
  await expect
    .poll(() => server.sentTo(routes.mergeLines).at(-1))
    .toMatchObject({ onlyOpen: true });
});

test('two cards of one person say why they are, and are joined by choice', async () => {
  const told: Told = {
    total: 1,
    pairs: [
      {
        ...{ one: 2, other: 9, names: ['Ana Fernhill', 'Fernhill, Ana'] },
        ...{ details: ['07700 900111', '+44 7700 900111'], isCertain: true, isJoined: false },
        reasons: ['same-number', 'same-name'],
      },
    ],
  };
  const server = new FakeServer().answers(routes.samePersons, told).answers(routes.joinPersons, {});
  const onJoined = vi.fn();
  const user = show(<SamePersons partner={PARTNER} read="1" onJoined={onJoined} />);
  expect(await screen.findByText(/the same number, the same name/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: /^One person: / }));
  await user.click(screen.getByRole('button', { name: 'Join 1 certain pair' }));
  await expect
    .poll(() => server.sentTo(routes.joinPersons))
    .toEqual([
      { pair: { one: 2, other: 9 }, areOne: true },
      { pair: null, areOne: true },
    ]);
  expect(onJoined).toHaveBeenCalledWith(0);
});

test('a server is signed in to once its address is one, and the password does not stay in its field', async () => {
  const server = new FakeServer().answers(routes.openPartner, {
    id: PARTNER,
    kind: 'server',
    mayWrite: true,
    books: [],
  });
  const onOpened = vi.fn();
  const user = show(<OpenServer ticket="26110001" deviceId={'d1' as never} onOpened={onOpened} />);
  const button = () => screen.getByRole('button', { name: 'Sign in there' });
  await write(user, screen.getByLabelText('Address'), 'books');
  await write(user, screen.getByLabelText('Name they sign in with'), 'ana');
  await write(user, screen.getByLabelText('Password'), 'gull tide');
  expect(button()).toHaveProperty('disabled', true);
  expect(screen.getByText('An address, as https://books.example.')).toBeDefined();
  await user.clear(screen.getByLabelText('Address'));
  await write(user, screen.getByLabelText('Address'), 'https://books.example/dav/');
  await user.click(button());
  await expect.poll(() => onOpened).toHaveBeenCalled();
  expect(server.sentTo(routes.openPartner)).toEqual([
    { site: { address: 'https://books.example/dav/', user: 'ana' }, password: 'gull tide' },
  ]);
  expect(screen.getByLabelText('Password')).toHaveProperty('value', '');
});

test('of several calendars one takes what is new on the device; parts may stay where they are', async () => {
  const way = { direction: 'both' as const, rule: 'ask' as const, without: [] };
  const books = ['home', 'work'].map((id) => ({ id, kind: 'events' as const, name: id }));
  const partner = { id: PARTNER, kind: 'server' as const, mayWrite: true, books };
  const setup: SyncSetup = {
    books: books.map(({ id, kind }) => ({ id, kind })),
    ways: { contacts: way, events: way, tasks: way, notes: way },
  };
  const changed = vi.fn<(next: SyncSetup) => void>();
  const directions = ['both', 'onto-device', 'off-device'] as const;
  const user = show(<SetUp {...{ partner, books, setup, directions }} onChange={changed} />);
  await choose(user, 'Calendar: what is new on the device goes into', 'work');
  expect(changed.mock.lastCall?.[0].books.map(({ id }) => id)).toEqual(['work', 'home']);
  await user.click(screen.getByText('Calendar: all their parts'));
  await user.click(screen.getByLabelText('Place'));
  expect(changed.mock.lastCall?.[0].ways.events.without).toEqual(['place']);
});
