import { expect, test } from 'vitest';
import { passwordProblem } from '../people/index.js';
import { Failure, problemOf, problems } from './problem.js';

test.each(['', '1234', '0000000', '12345678901', 'short', 'aaaaaaaaaa'])(
  '“%s” is no password',
  (text) => {
    expect(passwordProblem(text)?.code).toBe('weak-password');
  },
);
test('four words are one', () => {
  expect(passwordProblem('brass kettle seven moths')).toBeNull();
});

test('every problem says what happened, what is safe and what to do, in whole sentences', () => {
  for (const { what, safe, next } of Object.values(problems)) {
    for (const sentence of [what, safe, next]) expect(sentence).toMatch(/^[A-Z].*\.$/);
  }
});

test('an unknown error becomes a problem without its own text, which may name customers’ files', () => {
  expect(JSON.stringify(problemOf(new Error('letters/to-marguerite.txt')))).not.toContain(
    'marguerite',
  );
  expect(problemOf(new Failure('rack-full')).code).toBe('rack-full');
});
