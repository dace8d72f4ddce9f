import { fireEvent, screen } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { show } from '../testing/show.js';
import { Choice } from './choice.js';

test('the key that chose an option presses nothing else: the trigger has the focus back at once', () => {
  const chosen = vi.fn();
  show(
    <Choice<'one' | 'two'>
      label="Way"
      value="one"
      options={{ one: 'One', two: 'Two' }}
      onChange={chosen}
    />,
  );
  fireEvent.keyDown(screen.getByRole('combobox', { name: 'Way' }), { key: 'Enter' });
  const wentOn = fireEvent.keyDown(screen.getByRole('option', { name: 'Two' }), { key: 'Enter' });
  expect(chosen).toHaveBeenCalledWith('two');
  expect(wentOn).toBe(false);
});
