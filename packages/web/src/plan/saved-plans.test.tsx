import { screen } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { choose, show } from '../testing/show.js';
import { SavedPlans } from './saved-plans.js';

const plan = (id: string, name: string, because = 'Saved.') => ({
  id,
  name,
  mode: 'chosen' as const,
  choice: { notes: true },
  encrypted: true,
  because,
});

test('a plan is taken by its name, or by why it is remembered', async () => {
  const onTake = vi.fn();
  const remembered = plan('p1', '', 'As this device was taken last.');
  const saved = plan('p2', 'Before a battery');
  const user = show(<SavedPlans plans={[remembered, saved]} onTake={onTake} />);
  expect(screen.getByLabelText('Take a plan from before').textContent).toBe('Choose …');
  await choose(user, 'Take a plan from before', 'As this device was taken last.');
  expect(onTake).toHaveBeenLastCalledWith(remembered);
  await choose(user, 'Take a plan from before', 'Before a battery');
  expect(onTake).toHaveBeenLastCalledWith(saved);
});

test('nothing is offered where there is nothing from before', () => {
  show(<SavedPlans plans={[]} onTake={() => undefined} />);
  expect(screen.queryByLabelText('Take a plan from before')).toBeNull();
});
