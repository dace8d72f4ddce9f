import { expect, test } from 'vitest';
import { entranceOf } from './place.js';
import { places } from './places.js';
import { shortcuts } from './use-shortcuts.js';

const twice = (all: readonly string[]) => all.filter((one, at) => all.indexOf(one) !== at);

test('no address, key or command leads to two places', () => {
  expect(twice(places.flatMap(({ pages }) => Object.keys(pages)))).toEqual([]);
  expect(twice(places.flatMap(({ key }) => key ?? []))).toEqual([]);
  expect(twice(places.flatMap(({ command }) => command ?? []))).toEqual([]);
});

test('whatever the house, the command bar or a key leads to needs nothing but to be gone to', () => {
  for (const place of places) {
    if (!place.inHouse && place.command === undefined && place.key === undefined) continue;
    expect(entranceOf(place)).not.toContain(':');
  }
});

test('a place with a key says so in the list of keys', () => {
  const keys = new Map(shortcuts);
  for (const { key, command } of places) {
    if (key !== undefined) expect(keys.get(`G then ${key.toUpperCase()}`)).toBe(command);
  }
  expect(keys.get('G then C')).toBe('Go to the counter');
});

test.each(places.flatMap(({ pages }) => Object.entries(pages)))('%s has a page', async (_, load) =>
  expect(await load()).toBeTypeOf('function'),
);
