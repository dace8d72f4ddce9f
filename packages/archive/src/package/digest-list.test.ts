import { createHash } from 'node:crypto';
import { expect, test } from 'vitest';
import { DigestList } from './digest-list.js';

const digestOf = (number: number) => createHash('blake2b512').update(`${number}`).digest();

test('gives back every digest in its order, as often as it is asked', () => {
  const list = new DigestList();
  expect([...list]).toEqual([]);
  const all = Array.from({ length: 2500 }, (_, number) => digestOf(number));
  for (const digest of all) list.add(digest);
  expect([...list]).toEqual(all);
  expect([...list]).toHaveLength(2500);
});

test('takes no digest of another length', () => {
  expect(() => new DigestList().add(Buffer.alloc(32))).toThrow(RangeError);
});
