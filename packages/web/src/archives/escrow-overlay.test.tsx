import { routes } from '@bright-cellar/contract';
import { screen, within } from '@testing-library/react';
import { expect, test, vi } from 'vitest';
import { FakeServer, Refusal } from '../testing/fake-server.js';
import { anArchive } from '../testing/made-up.js';
import { show, write } from '../testing/show.js';
import { EscrowOverlay } from './escrow-overlay.js';

test('without escrow it says plainly that nobody can open it, and what is possible', () => {
  new FakeServer();
  show(<EscrowOverlay archive={anArchive({ escrow: false })} onClose={() => undefined} />);
  const dialog = screen.getByRole('dialog');
  expect(within(dialog).getByText(/Nobody can open this archive/)).toBeDefined();
  expect(dialog.textContent).toMatch(/their reminder is “The harbour”/);
  expect(within(dialog).queryByRole('textbox')).toBeNull();
});

test('with escrow two different people give it another password', async () => {
  const onClose = vi.fn();
  const asked = new FakeServer().answers(routes.openByEscrow, new Refusal('two-people'));
  const user = show(<EscrowOverlay archive={anArchive({ escrow: true })} onClose={onClose} />);
  const open = screen.getByRole('button', { name: 'Give it another password' });
  const fill = async (label: string, values: [string, string]) => {
    const fields = screen.getAllByLabelText(label);
    for (const [at, value] of values.entries()) {
      const field = fields[at];
      if (field && value !== '') await write(user, field, value);
    }
  };
  await fill('Their sign-in password', ['lantern', 'steps']);
  await fill('Their own phrase', ['a phrase of mine', 'a phrase of theirs']);
  await write(user, screen.getByLabelText('New password'), 'gull tide supper moss');
  await write(user, screen.getByLabelText('The same again'), 'gull tide supper moss');
  await fill('Name to sign in with', ['wren', 'Wren']);
  // One person twice is not two people.
  expect(open).toHaveProperty('disabled', true);
  await fill('Name to sign in with', ['', 'ford']);
  await user.click(open);
  expect(await screen.findByRole('alert')).toBeDefined();
  expect(onClose).not.toHaveBeenCalled();
  asked.answers(routes.openByEscrow, anArchive({ escrow: true }));
  await user.click(open);
  await expect.poll(() => onClose).toHaveBeenCalled();
  expect(asked.sentTo(routes.openByEscrow)[1]).toMatchObject({
    people: [{ login: 'wren' }, { login: 'Wrenford' }],
    newPassword: 'gull tide supper moss',
    passwordHolder: 'customer',
  });
});
