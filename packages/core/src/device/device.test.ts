import { describe, expect, test } from 'vitest';
import {
  compareOsVersions,
  deviceFactsSchema,
  serialRead,
  serialTail,
  totalOf,
  unreadSerial,
} from './device.js';
import { deviceFacts, type Change } from '../test-devices.js';

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

describe('what a device says of itself is taken up to a bound, and not beyond', () => {
  const facts = deviceFacts();
  const takes = (change: Change) => deviceFactsSchema.safeParse({ ...facts, ...change }).success;
  const long = (length: number) => 'x'.repeat(length);
  const store = { group: 'tansy', name: 'Tansy', confirmed: true };

  test.each<[what: string, most: Change, more: Change]>([
    ['berth', { berth: 128 }, { berth: 129 }],
    ['first berth', { berth: 1 }, { berth: 0 }],
    ['id', { id: long(64) }, { id: long(65) }],
    ['family', { family: long(40) }, { family: long(41) }],
    ['no family', { family: 'x' }, { family: '' }],
    ['number of the modem', { imei: long(20) }, { imei: long(21) }],
    ['OS version', { osVersion: '1.2.3.4.5.6.7.8.9.10.11.12.13' }, { osVersion: '1'.repeat(31) }],
    ['revision', { contentRevision: long(64) }, { contentRevision: long(65) }],
    ['full', { charge: 100 }, { charge: 101 }],
    ['flat', { charge: 0 }, { charge: -1 }],
    ['empty', { used: 0 }, { used: -1 }],
    ['no room at all', { capacity: 0 }, { capacity: -1 }],
    [
      'steps',
      { openingSteps: Array<string>(20).fill('A step.') },
      { openingSteps: Array<string>(21).fill('A step.') },
    ],
    ['a step', { openingSteps: [long(300)] }, { openingSteps: [long(301)] }],
    [
      'stores',
      { sealedStores: Array<typeof store>(100).fill(store) },
      { sealedStores: Array<typeof store>(101).fill(store) },
    ],
    ['wearable', { wearable: long(120) }, { wearable: long(121) }],
    ['screen', { screen: long(300) }, { screen: long(301) }],
    [
      'update',
      { osUpdate: { version: long(30), bytes: 0 } },
      { osUpdate: { version: long(31), bytes: 0 } },
    ],
    [
      'no update',
      { osUpdate: { version: '1', bytes: 0 } },
      { osUpdate: { version: '1', bytes: -1 } },
    ],
  ])('%s', (_, most, more) => {
    expect(takes(most)).toBe(true);
    expect(takes(more)).toBe(false);
  });
});
