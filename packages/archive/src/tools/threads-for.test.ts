import { expect, test } from 'vitest';
import { threadsFor } from './threads-for.js';

test('little work is done where one is, and much by as many threads as there may be', () => {
  expect(threadsFor(0, 2)).toBe(0);
  expect(threadsFor(8 * 2 ** 20 - 1, 2)).toBe(0);
  expect(threadsFor(8 * 2 ** 20, 2)).toBe(1);
  expect(threadsFor(10e9, 2)).toBe(2);
  expect(threadsFor(10e9, 0)).toBe(0);
});
