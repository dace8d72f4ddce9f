import { expect, test } from 'vitest';
import { goodFor, type Tried, usualReserve } from './good-for.js';

const tried = (change: Partial<Tried> = {}) =>
  goodFor({
    free: 1e12,
    writeRate: 1e8,
    readRate: 1e8,
    isSound: true,
    keepsFirst: true,
    ...change,
  });

test('a place that gives back something else is no rack, whatever else it can', () => {
  const { fit, sentences } = tried({ isSound: false });
  expect(fit).toBe(false);
  expect(sentences).toHaveLength(1);
});

test.each([
  [10e6, /copies and for what is kept long/],
  [25e6, /one device at a time/],
  [100e6, /4 devices at once/],
  [3e9, /6 devices at once/],
])('at %d bytes a second', (writeRate, says) => {
  expect(tried({ writeRate }).sentences[0]).toMatch(says);
});

test.each([
  [63e9, /Not room for one backup/],
  [64e9, /about 1 backup of 64 GB/],
  [1e12, /about 15 backups of 64 GB/],
])('with %d bytes free', (free, says) => {
  expect(tried({ free }).sentences[1]).toMatch(says);
});

test('a place that does not keep two apart says so', () => {
  expect(tried().sentences).toHaveLength(2);
  expect(tried({ keepsFirst: false }).sentences[2]).toMatch(/only this one/);
});

test.each([
  [2e12, 20e9],
  [64e9, 3e9],
  [8e9, 0],
])('of %d bytes so many are proposed to stay free', (capacity, reserve) => {
  expect(usualReserve(capacity)).toBe(reserve);
});
