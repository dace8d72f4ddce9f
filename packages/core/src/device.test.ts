import { expect, test } from 'vitest';
import { compareOsVersions, serialRead, serialTail, totalOf, unreadSerial } from './device.js';

test.each<[string, string, number]>([
  ['17.10', '17.9', 1],
  ['17', '17.0.0', 0],
  ['17.0.1', '17', 1],
  ['17', '17.0.1', -1],
  ['9.9.9', '10', -1],
])('OS %s against %s, number by number', (a, b, sign) => {
  expect(Math.sign(compareOsVersions(a, b))).toBe(sign);
  expect(Math.sign(compareOsVersions(b, a))).toBe(sign === 0 ? 0 : -sign);
});

test('amounts add up', () => {
  expect(totalOf([])).toEqual({ items: 0, bytes: 0 });
  const amounts = [
    { class: 'notes' as const, items: 2, bytes: 30 },
    { class: 'music' as const, items: 5, bytes: 700 },
  ];
  expect(totalOf(amounts)).toEqual({ items: 7, bytes: 730 });
});

test('a serial that nobody could read stands for its device and is never shown', () => {
  expect(serialRead('VA7K0000TEST')).toBe('VA7K0000TEST');
  expect(serialRead(unreadSerial('7'))).toBeNull();
  expect(unreadSerial('7')).not.toBe(unreadSerial('8'));
  expect(serialTail('VA7K0000TEST')).toBe('TEST');
  expect(serialTail('AB')).toBe('AB');
});
