import { expect, test } from 'vitest';
import { benchRulesSchema, placesProblem, typedPlaces, usualBenchRules } from './bench-rules.js';

test('where drives appear is said as whole paths of folders, never the root, never out of one', () => {
  expect(benchRulesSchema.parse(usualBenchRules)).toEqual(usualBenchRules);
  expect(placesProblem(['/media', ' /srv/cards/* ', ''])).toBeNull();
  expect(typedPlaces(['/media', ' /srv/cards/* ', ''])).toEqual(['/media', '/srv/cards/*']);
  for (const bad of ['/', 'media', '/media/', '//media', '/media/../etc', '/a\0b', '~/x'])
    expect(placesProblem([bad]), bad).not.toBeNull();
  expect(placesProblem([])).toBe('One folder at least.');
});
