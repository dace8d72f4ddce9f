import { routes } from '@bright-cellar/contract';
import { usualTakeOut } from '@bright-cellar/core';
import { screen } from '@testing-library/react';
import { beforeEach, expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { aRack, aSession } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { InHand } from './basket.js';

const ID = '11111111-1111-4111-8111-111111111111';
const pick = { of: 'found', shelf: 'notes', text: 'ferry' } as const;
const held = { picks: [{ key: JSON.stringify(pick), words: 'Notes with “ferry”', count: 3 }] };
const running = {
  ...{ state: 'running' as const, taken: 2, bytes: 4096, failed: [] },
  wrote: 'extracts/26110001/taken-out-1',
};
beforeEach(() => localStorage.clear());

test('what is in hand is told, put back, and taken out as it was chosen; choices are remembered, a password is not', async () => {
  const server = new FakeServer()
    .answers(routes.session, aSession('technician'))
    .answers(routes.racks, [])
    .answers(routes.lookBasket, held)
    .answers(routes.putBackInLook, { picks: [] })
    .answers(routes.takeOut, { id: ID })
    .answers(routes.takeOutState, {
      ...{ state: 'done', taken: 2, bytes: 4096, wrote: null },
      failed: [{ path: 'notes/tide.md', reason: 'It is damaged in the archive.' }],
    });
  const user = show(<InHand id={ID} />);
  await user.click(await screen.findByRole('button', { name: 'Take out …' }));
  expect(screen.getByText(/no longer encrypted: anybody/)).toBeDefined();
  await user.click(screen.getByRole('checkbox', { name: /Seal the package/ }));
  const action = screen.getByRole('button', { name: 'Take it out' });
  expect(action).toHaveProperty('disabled', true);
  await write(user, screen.getByLabelText('Password of the package'), 'lamp of the ferry');
  await user.click(action);
  expect(await screen.findByText('The package is here.')).toBeDefined();
  expect(screen.getByText(/^2 files taken, 4.10 kB; 1 failed/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Try those again' }));
  expect(server.sentTo(routes.takeOut)).toMatchObject([
    { choices: usualTakeOut, password: 'lamp of the ferry', onlyFailed: false },
    { onlyFailed: true },
  ]);
  expect(Object.values(localStorage).join()).not.toContain('lamp');
  await user.keyboard('{Escape}');
  await user.click(screen.getByRole('button', { name: 'Put back: Notes with “ferry”' }));
  expect(await screen.findByText(/^Nothing yet/)).toBeDefined();
  expect(server.sentTo(routes.putBackInLook)).toEqual([{ keys: [held.picks[0]?.key] }]);
});

test('it goes onto a rack or a stick as files, where that is chosen', async () => {
  const rack = aRack();
  const server = new FakeServer()
    .answers(routes.session, aSession('technician'))
    .answers(routes.racks, [rack])
    .answers(routes.lookBasket, held)
    .answers(routes.takeOut, { id: ID })
    .answers(routes.takeOutToRack, { ...running })
    .answers(routes.takeOutState, { ...running, state: 'done' });
  const user = show(<InHand id={ID} />);
  await user.click(await screen.findByRole('button', { name: 'Take out …' }));
  await choose(user, 'Where to', `a new folder on ${rack.name}, as files`);
  await user.click(screen.getByRole('button', { name: 'Take it out' }));
  expect(await screen.findByText('All of it is on the rack, and was read back.')).toBeDefined();
  expect(screen.getByText('extracts/26110001/taken-out-1')).toBeDefined();
  expect(server.sentTo(routes.takeOutToRack)).toEqual([{ rackId: rack.id }]);
});

test('a pattern that would call two the same is said to be wrong, and nothing is taken', async () => {
  new FakeServer()
    .answers(routes.session, aSession('technician'))
    .answers(routes.racks, [])
    .answers(routes.lookBasket, held);
  const user = show(<InHand id={ID} />);
  await user.click(await screen.findByRole('button', { name: 'Take out …' }));
  const pattern = screen.getByLabelText('Photographs are called');
  await user.clear(pattern);
  await write(user, pattern, 'all the same');
  expect(screen.getByText(/two would be called the same/)).toBeDefined();
  expect(screen.getByRole('button', { name: 'Take it out' })).toHaveProperty('disabled', true);
});
