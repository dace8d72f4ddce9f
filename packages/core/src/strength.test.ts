import { expect, test } from 'vitest';
import { guessesFor, newPasswordProblem } from './strength.js';

test.each([
  ...['password', 'Password1', 'qwertyui', 'abcdabcd', '12345678', 'letmein123', 'iloveyou1'],
  ...['asdfghjkl', 'aaaaaaab', 'P@ssw0rd', 'football1', 'short', '402917'],
])('“%s” must not pass', (password) => {
  expect(newPasswordProblem(password)?.code).toBe('weak-password');
});

test.each(['brass kettle seven moths', 'tR9#kq2Lw', 'ferry lantern quince mole', 'mühle-12-quark'])(
  '“%s” passes',
  (password) => {
    expect(newPasswordProblem(password)).toBeNull();
  },
);

test('a very long one is measured without delay', () => {
  expect(guessesFor('correct horse '.repeat(500))).toBeGreaterThan(1e10);
});
