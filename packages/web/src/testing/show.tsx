import { QueryClientProvider } from '@tanstack/react-query';
import { render, screen, within } from '@testing-library/react';
import userEvent, { type UserEvent } from '@testing-library/user-event';
import type { ReactNode } from 'react';
import { MemoryRouter, useLocation } from 'react-router';
import { ShopClient } from '../api/shop-client.js';

/** Shows a piece of the interface by itself. @param at the address that it is at @returns the hands that work it */
export function show(piece: ReactNode, at = '/'): UserEvent {
  const client = new ShopClient({ defaultOptions: { queries: { retry: false } } });
  render(
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>
        {piece}
        <Where />
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return userEvent.setup();
}

const WHERE = 'where';
function Where() {
  return <span data-testid={WHERE}>{useLocation().pathname}</span>;
}
/** The page that the interface has gone to. */
export const whereNow = () => screen.getByTestId(WHERE).textContent;

/** Letters that are typed one by one: more than these come at once, as a password manager brings them, since each draws the screen anew. */
const TYPED = 8;

/** Writes into a field, as `user.type` does: keys in curly brackets are pressed, `{{` is a bracket. */
export async function write(user: UserEvent, field: Element, text: string): Promise<void> {
  const [, words = '', keys = ''] = /^((?:[^{]|\{\{)*)((?:\{\w+\})*)$/.exec(text) ?? [];
  if (words.length <= TYPED) return user.type(field, text);
  await user.click(field);
  await user.paste(words.replaceAll('{{', '{'));
  if (keys) await user.keyboard(keys);
}

/** Opens a choice with the keyboard and takes one of what it offers. */
export async function choose(user: UserEvent, label: string, option: string): Promise<void> {
  screen.getByLabelText(label).focus();
  await user.keyboard('{Enter}');
  const list = await screen.findByRole('listbox');
  within(list).getByRole('option', { name: option }).focus();
  await user.keyboard('{Enter}');
}
