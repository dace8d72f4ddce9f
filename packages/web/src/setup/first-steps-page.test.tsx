import { routes } from '@bright-cellar/contract';
import { screen, within } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aBench, aRack, aSession, houseRules } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { FirstStepsPage } from './first-steps-page.js';

const newShop = () =>
  new FakeServer()
    .answers(routes.session, aSession('keeper'))
    .answers(routes.racks, [])
    .answers(routes.saves, { key: null, running: false, racks: [] })
    .answers(routes.bench, aBench())
    .answers(routes.settings, houseRules)
    .answers(routes.logo, { png: null })
    .answers(routes.network, {
      ...{ rules: { mode: 'alone' }, addresses: [], deskAddress: '', suggested: [] },
      ...{ localPorts: { shop: 1, desk: 2 }, certificate: null, authority: null },
    })
    .answers(routes.people, [])
    .answers(routes.escrow, { people: [], since: null });

const step = async (name: string) => within(await screen.findByRole('listitem', { name }));

test('a new shop needs a rack first; what it has is done, what is up to it says so', async () => {
  newShop();
  show(<FirstStepsPage />);
  expect((await step('Racks')).getByText('Needed')).toBeDefined();
  expect(screen.getByRole('status').textContent).toMatch(/^Add the first rack/);
  expect((await step('Devices')).getByText('Done')).toBeDefined();
  expect((await step('Logo')).getByText('If wanted')).toBeDefined();
  expect((await step('Other computers')).getByRole('link').getAttribute('href')).toBe('/network');
});

test('with a rack and a recovery key it has what it needs', async () => {
  newShop()
    .answers(routes.racks, [aRack()])
    .answers(routes.saves, {
      key: { recipient: 'age1x', since: '2026-11-01T00:00:00.000Z' },
      ...{ running: false, racks: [] },
    });
  show(<FirstStepsPage />);
  expect((await step('Recovery key')).getByText('Done')).toBeDefined();
  expect(screen.getByRole('status').textContent).toMatch(/^What a shop needs is there/);
});

test('who may not say who works here sees the rest', async () => {
  const { may, ...session } = aSession('keeper');
  newShop().answers(routes.session, { ...session, may: may.filter((one) => one !== 'people') });
  show(<FirstStepsPage />);
  expect((await step('Escrow')).getByText('If wanted')).toBeDefined();
  expect(screen.queryByRole('listitem', { name: 'People' })).toBeNull();
});
