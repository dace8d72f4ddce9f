import { expect, test } from 'vitest';
import { MIN_PASSWORD_LENGTH, madePassword, passwordProblem } from './password.js';

test.each<[string, RegExp | null]>([
  ['48213', /A PIN of 5 digits/],
  ['48213904821', /A PIN of 11 digits/],
  ['482139048215', null],
  ['short 1', /fewer than 8 characters/],
  // Eight of them, however many bytes each takes.
  ['ключ дом', null],
  ['🌲🌊🌙🌸🌵🌾🍄', /fewer than 8/],
  ['abcabcab', /repeats the same few/],
  ['abcdabcd', null],
  ['slate otter ferry', null],
])('“%s” is judged by its floor alone', (password, what) => {
  const found = passwordProblem(password);
  if (what === null) return expect(found).toBeNull();
  expect(found?.code).toBe('weak-password');
  expect(found?.what).toMatch(what);
});

test('a made password has as many words as are asked for, each drawn by itself from all of them', () => {
  const asked: number[] = [];
  const draw = (below: number) => {
    asked.push(below);
    return asked.length - 1;
  };
  expect(madePassword(['ash', 'brook', 'cliff', 'dune', 'elm'], draw)).toBe(
    'ash brook cliff dune elm',
  );
  expect(asked).toEqual([5, 5, 5, 5, 5]);
  expect(madePassword(['ash'], () => 0, 3)).toBe('ash ash ash');
  expect(MIN_PASSWORD_LENGTH).toBe(8);
});
