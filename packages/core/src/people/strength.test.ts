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

test('what takes ten million guesses passes, and not one less', () => {
  // Whatever the estimator says of it: the limit is ours.
  const guesses = ['kelpt1', 'kelpt17', 'kelpt17q', 'kelpt17qz', 'kelpt17qzv9'].map((p) => ({
    passes: newPasswordProblem(`${p}--`) === null,
    enough: guessesFor(`${p}--`) >= 1e7,
  }));
  for (const { passes, enough } of guesses) expect(passes).toBe(enough);
  expect(guessesFor('x'.repeat(100))).toBe(guessesFor('x'.repeat(300)));
});
