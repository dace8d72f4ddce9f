import { routes } from '@bright-cellar/contract';
import { screen, within } from '@testing-library/react';
import { expect, test } from 'vitest';
import { FakeServer } from '../testing/fake-server.js';
import { TICKET, aDesk } from '../testing/made-up.js';
import { choose, show, write } from '../testing/show.js';
import { useNewPassword } from './new-password.js';
import { PasswordChoice } from './password-choice.js';

const GOOD = 'quay ferry kettle orchard';

function Chosen() {
  const { value, set, ready } = useNewPassword();
  return (
    <>
      <PasswordChoice ticket={TICKET} device="Vireo Arc 7" value={value} set={set} />
      <output aria-label="ready">{String(ready)}</output>
    </>
  );
}
const ready = () => screen.getByLabelText('ready').textContent === 'true';
const password = () => screen.getByLabelText('Password of the backup');
const again = () => screen.getByLabelText('The same again');

test('a PIN is four digits and no password, and is not taken', async () => {
  new FakeServer();
  const user = show(<Chosen />);
  await write(user, password(), '7351');
  await write(user, again(), '7351');
  expect(screen.getByText(/^A PIN of 4 digits is not a password/)).toBeDefined();
  expect(ready()).toBe(false);
});

test('it is typed twice, and says in a sentence what it is worth', async () => {
  new FakeServer();
  const user = show(<Chosen />);
  await write(user, password(), GOOD);
  expect(await screen.findByText(/^Strong: would hold for/)).toBeDefined();
  await write(user, again(), 'quay ferry kettle orchid');
  expect(screen.getByText('The two are not the same.')).toBeDefined();
  expect(ready()).toBe(false);
  await user.clear(again());
  await write(user, again(), GOOD);
  expect(ready()).toBe(true);
});

test('a weak one is taken after its worth was said; one that anybody would try is not', async () => {
  new FakeServer();
  const user = show(<Chosen />);
  await write(user, password(), 'tR9#kq2L');
  expect(await screen.findByText(/^Weak: would be found in/)).toBeDefined();
  await user.clear(password());
  await write(user, password(), 'password1');
  expect(await screen.findByText(/one of the first that anybody would try/)).toBeDefined();
});

test('made words go onto a slip with lines that only its holder writes on; other words are other words', async () => {
  new FakeServer();
  const user = show(<Chosen />);
  await choose(user, 'The password is', 'Made here, for a slip');
  await user.click(await screen.findByRole('button', { name: 'Make a password' }));
  const words = () => document.querySelector('[data-made-password]')?.textContent ?? '';
  const first = words();
  expect(first.split(' ')).toHaveLength(5);
  expect(ready()).toBe(true);
  const slip = document.querySelector('.paper');
  if (!(slip instanceof HTMLElement)) throw new Error('no slip');
  expect(within(slip).getByText(first)).toBeDefined();
  expect(slip.textContent).toContain(TICKET);
  expect(slip.querySelectorAll('.paper-line')).toHaveLength(2);
  await user.click(screen.getByRole('button', { name: 'Other words' }));
  expect(words()).not.toBe(first);
});

test('what was typed does not stay when it comes from elsewhere', async () => {
  new FakeServer().answers(routes.desk, aDesk());
  const user = show(<Chosen />);
  await write(user, password(), GOOD);
  await write(user, again(), GOOD);
  await choose(user, 'The password is', 'Typed by the customer, on a page of their own');
  expect(ready()).toBe(false);
  await choose(user, 'The password is', 'Typed here, twice');
  expect(password()).toHaveProperty('value', '');
});
