import { routes } from '@bright-cellar/contract';
import type { FailedItems as Failed } from '@bright-cellar/core';
import { screen, within } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { BACKUP } from '../testing/made-up.js';
import { show } from '../testing/show.js';
import { FailedItems } from './failed-items.js';

const failed: Failed[] = [
  { class: 'photographs', reason: 'the device could not read it', count: 2, ids: ['p1', 'p2'] },
  { class: 'videos', reason: 'it changed while it was read', count: 1, ids: [] },
];
const item = (name: string | null) => ({
  class: 'photographs' as const,
  reason: 'the device could not read it',
  name,
  bytes: 2_400_000,
  modified: '2026-03-01T12:00:00.000Z',
});
const items = () => show(<FailedItems operationId={BACKUP} failed={failed} />);

test('how many of which class and why is said at once; each of them only when somebody asks', async () => {
  const asked = new FakeServer().answers(routes.failedItems, [
    item('2024/06/quay.jpg'),
    { ...item('2024/07/tide.mp4'), class: 'videos', reason: 'it changed while it was read' },
    item('2024/08/gull.jpg'),
  ]);
  const user = items();
  expect(screen.getAllByRole('listitem').map((li) => li.textContent)).toEqual([
    'Photographs: 2 items not taken, the device could not read it.',
    'Videos: 1 item not taken, it changed while it was read.',
  ]);
  expect(asked.asked).toEqual([]);
  await user.click(screen.getByRole('button', { name: 'Show each of them' }));
  const table = await screen.findByRole('table');
  expect(within(table).getByText('2024/06/quay.jpg')).toBeDefined();
  expect(within(table).getAllByText('2.40 MB')).toHaveLength(3);
  // Together by what failed and why, in the order in which they came.
  expect(
    within(table)
      .getAllByRole('row')
      .slice(1)
      .map((row) => row.firstElementChild?.textContent),
  ).toEqual([
    'Photographs: the device could not read it',
    '2024/06/quay.jpg',
    '2024/08/gull.jpg',
    'Videos: it changed while it was read',
    '2024/07/tide.mp4',
  ]);
  await user.click(screen.getByRole('button', { name: 'Hide them' }));
  expect(screen.queryByRole('table')).toBeNull();
});

test('names that nobody agreed to show are not shown', async () => {
  new FakeServer().answers(routes.failedItems, [item(null)]);
  const user = items();
  await user.click(screen.getByRole('button', { name: 'Show each of them' }));
  expect(await screen.findByText('name not shown: not agreed')).toBeDefined();
});

test.each([
  ['has gone', new Refusal('device-not-here'), 'The device is not on the bench.'],
  ['holds none of them any more', [], 'The device does not hold them any more.'],
])('a device that %s says so', async (_, answer, sentence) => {
  new FakeServer().answers(routes.failedItems, answer);
  const user = items();
  await user.click(screen.getByRole('button', { name: 'Show each of them' }));
  expect(await screen.findByText(sentence)).toBeDefined();
});
