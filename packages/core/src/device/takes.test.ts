import { expect, test } from 'vitest';
import { filled, isPlaced, takesSchema } from './takes.js';

const taken = (place: string) =>
  takesSchema.safeParse({
    adds: true,
    applications: [],
    items: [{ class: 'notes', format: null, place, shows: [] }],
  }).success;

test.each([
  'notes/{n}.md',
  'messages/{conversation}/{month}.jsonl',
  '{path}',
  'alarms/alarms.json',
])('a device may keep things at %s', (place) => {
  expect(taken(place)).toBe(true);
});

test.each([
  ...['../{n}.md', 'notes/../../{n}', '/etc/{n}', 'notes//{n}', 'notes/.', 'notes/'],
  ...['{n}{month}', '{n}-{n}-{n}', 'notes/(a+)+{n}', 'notes/{n}\n'],
])('nothing goes to %s, whatever a device says', (place) => {
  expect(taken(place)).toBe(false);
});

test('a path is one of a place or not, and a place is filled in', () => {
  const place = 'messages/{conversation}/{month}.jsonl';
  expect(isPlaced(place, 'messages/thread-001/2026-11.jsonl')).toBe(true);
  expect(isPlaced(place, 'messages/a/b/2026-11.jsonl')).toBe(false);
  expect(isPlaced(place, 'messages/thread-001/november.jsonl')).toBe(false);
  expect(isPlaced('a.b/{n}', 'axb/1')).toBe(false);
  expect(filled(place, { conversation: 'Ada', month: '2026-11' })).toBe(
    'messages/Ada/2026-11.jsonl',
  );
});
