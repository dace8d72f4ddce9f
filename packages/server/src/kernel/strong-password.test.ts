import { expect, test } from 'vitest';
import { mustBeStrong } from './strong-password.js';

test.each([
  ['fewer characters than any may have', '1234'],
  ['what anybody would try first', 'password1'],
])('refused: %s', async (_, password) => {
  await expect(mustBeStrong(password)).rejects.toMatchObject({
    problem: { code: 'weak-password' },
  });
});

test('words that do not belong together may be given', async () => {
  await mustBeStrong('brass kettle seven moths');
});
