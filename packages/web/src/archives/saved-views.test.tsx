import { routes, type SavedView } from '@bright-cellar/contract';
import { screen } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { show, write } from '../testing/show.js';
import { SavedViews } from './saved-views.js';

const spring: SavedView = {
  ...{ id: 'b4f7e6f0-0000-4000-8000-000000000001', name: 'spring' },
  ...{ find: 'spring 2026', sort: 'taken', order: 'desc' },
};
const ask = { text: 'grey tablet', sort: 'stored', order: 'asc' } as const;

test('the present search is kept under a name, and one that was kept is had again or forgotten', async () => {
  const server = new FakeServer()
    .answers(routes.savedViews, [spring])
    .answers(routes.saveView, [spring])
    .answers(routes.dropView, []);
  const onShow = vi.fn();
  const user = show(<SavedViews ask={ask} isUsual={false} onShow={onShow} />);
  await user.click(await screen.findByRole('button', { name: 'spring' }));
  expect(onShow).toHaveBeenCalledWith({ text: 'spring 2026', sort: 'taken', order: 'desc' });
  await user.click(screen.getByRole('button', { name: 'Keep this view' }));
  await user.clear(screen.getByLabelText('Call it'));
  await write(user, screen.getByLabelText('Call it'), 'tablets{Enter}');
  expect(server.sentTo(routes.saveView)).toEqual([
    { name: 'tablets', find: 'grey tablet', sort: 'stored', order: 'asc' },
  ]);
  await user.click(await screen.findByRole('button', { name: 'Forget the view spring' }));
  expect(await screen.findByRole('button', { name: 'Keep this view' })).toBeDefined();
  expect(screen.queryByRole('button', { name: 'spring' })).toBeNull();
});
