// @ts-check
import { expect, test } from 'vitest';

test('bytes are alike when each of them is, wherever they stand, and of whatever class they are', () => {
  expect({ a: [new Uint8Array([1])] }).toEqual({ a: [Buffer.from([1])] });
  expect(Buffer.from([1, 2])).not.toEqual(Buffer.from([1, 3]));
  expect({ a: [new Uint8Array([1])] }).not.toEqual({ a: [new Uint8Array([1, 0])] });
  expect(new Uint8Array([1])).not.toEqual([1]);
});
