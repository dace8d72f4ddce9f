import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compareOsVersions, type DeviceFacts } from './device.js';
import {
  backupReadiness,
  firstUnmet,
  rackReadiness,
  restoreReadiness,
  roomForRestore,
  type RackRoom,
} from './readiness.js';
import { deviceFacts, emptyDevice } from './test-devices.js';

const backup = { family: 'vireo', familyName: 'Vireo', osVersion: '17.2', bytes: 5e9 };

describe('before a backup', () => {
  test('an open, charged device in use is ready', () => {
    expect(firstUnmet(backupReadiness(deviceFacts()))).toBeNull();
  });

  test.each<[string, Partial<DeviceFacts>, RegExp]>([
    ['unlocked', { lock: 'locked', approval: 'not-asked' }, /^Unlock the phone on berth 1/],
    ['approved', { approval: 'asking' }, /approve this bench and confirm/],
    ['idle', { activity: 'installing' }, /Leave the phone/],
    ['charged', { charge: 7 }, /Charge the phone .* 20 % \(now 7 %\)/],
    ['holds-something', { empty: true }, /customer’s own device/],
  ])('%s is asked for first when it is what is missing', (id, change, remedy) => {
    const unmet = firstUnmet(backupReadiness(deviceFacts(change)));
    expect(unmet?.id).toBe(id);
    expect(unmet?.remedy).toMatch(remedy);
  });

  test('a family that asks for no approval is never told to approve', () => {
    const { capabilities } = deviceFacts();
    const device = deviceFacts({
      approval: 'not-asked',
      capabilities: { ...capabilities, approval: false },
    });
    expect(firstUnmet(backupReadiness(device))).toBeNull();
  });
});

describe('room on a rack', () => {
  const rack = (name: string, free: number, more: Partial<RackRoom> = {}): RackRoom => ({
    name,
    free,
    present: true,
    reserve: 5e9,
    ...more,
  });

  test('the roomiest rack that is here counts, without its reserve', () => {
    const racks = [
      rack('Alder', 12e9),
      rack('Birch', 16e9),
      rack('Cold', 9e12, { present: false }),
    ];
    expect(rackReadiness(deviceFacts(), racks)).toMatchObject({
      met: true,
      reading: 'Birch can take 11.0 GB',
    });
  });

  test('a device that holds more than any rack takes is a warning, with both figures', () => {
    const room = rackReadiness(deviceFacts(), [rack('Alder', 14e9)]);
    expect(room).toMatchObject({ met: false, weight: 'note' });
    expect(room.remedy).toMatch(/Alder can take 9.00 GB, and the phone holds 10.0 GB/);
  });

  test('without any rack nothing can start', () => {
    expect(rackReadiness(deviceFacts(), [])).toMatchObject({ met: false, weight: 'must' });
    expect(rackReadiness(deviceFacts(), [rack('Cold', 9e12, { present: false })]).weight).toBe(
      'must',
    );
  });
});

describe('before a restore', () => {
  test('an empty device of the family is ready', () => {
    expect(firstUnmet(restoreReadiness(emptyDevice(), backup))).toBeNull();
  });

  test.each<[string, Partial<DeviceFacts>]>([
    ['family', { family: 'marl', familyName: 'Marl' }],
    ['empty', { empty: false }],
    ['owner-lock', { ownerLock: 'on' }],
    ['os', { osVersion: '17.1.9' }],
    ['capacity', { capacity: 12e9, used: 10e9 }],
    ['charged', { charge: 49 }],
    ['idle', { activity: 'erasing' }],
  ])('%s blocks, and says what to do', (id, change) => {
    const unmet = restoreReadiness(emptyDevice(change), backup).filter((c) => !c.met);
    expect(unmet.map((c) => c.id)).toEqual([id]);
    expect(unmet[0]?.remedy).toMatch(/\.$/);
  });

  test('the room asked for grows with the backup and always exceeds it', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1e13 }),
        fc.integer({ min: 0, max: 1e12 }),
        (size, more) => {
          expect(roomForRestore(size)).toBeGreaterThan(size);
          expect(roomForRestore(size + more)).toBeGreaterThanOrEqual(roomForRestore(size));
        },
      ),
    );
  });
});

test('OS versions compare by number, part by part', () => {
  expect(compareOsVersions('17.10', '17.9')).toBeGreaterThan(0);
  expect(compareOsVersions('17', '17.0.0')).toBe(0);
  expect(compareOsVersions('9.9.9', '10')).toBeLessThan(0);
});
