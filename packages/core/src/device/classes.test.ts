import { expect, test } from 'vitest';
import { classOfPath, dataClassIds, groupOfPath, isDataClass } from './classes.js';

test.each([
  ['photographs/2026/a.jpg', 'photographs', '2026'],
  ['photographs/2026/trip/a.jpg', 'photographs', '2026'],
  ['photographs/a.jpg', 'photographs', ''],
  // A file may be called like a class: only a folder says what lies in it.
  ['photographs', 'documents', ''],
  ['elsewhere/2026/a.jpg', 'documents', ''],
  ['a.pdf', 'documents', ''],
  ['toString/x/y', 'documents', ''],
  ['', 'documents', ''],
])('“%s” is of the class %s and the group “%s”', (path, ofClass, group) => {
  expect(classOfPath(path)).toBe(ofClass);
  expect(groupOfPath(path)).toBe(group);
});

test('only the listed classes are any', () => {
  for (const id of dataClassIds) expect(isDataClass(id)).toBe(true);
  for (const text of ['', 'toString', 'Photographs']) expect(isDataClass(text)).toBe(false);
});
