import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { DeviceFacts } from './device.js';
import {
  approvalRemedy,
  asksNext,
  backupReadiness,
  firstUnmet,
  openingRemedy,
  rackReadiness,
  restoreReadiness,
  roomForRestore,
  stillUnmet,
  whereIs,
  writeReadiness,
  type Condition,
  type RackRoom,
} from './readiness.js';
import { deviceFacts, emptyDevice } from '../test-devices.js';

/** Bytes that a large device holds. */
const LARGE = 128e9;

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
    ['owner-lock', { ownerLock: 'asking' }],
    ['os', { osVersion: '17.1.9' }],
    ['capacity', { capacity: 12e9, used: 10e9 }],
    ['charged', { charge: 49 }],
    ['idle', { activity: 'erasing' }],
  ])('%s blocks, and says what to do', (id, change) => {
    const unmet = restoreReadiness(emptyDevice(change), backup).filter((c) => !c.met);
    expect(unmet.map((c) => c.id)).toEqual([id]);
    expect(unmet[0]?.remedy).toMatch(/\.$/);
  });

  test('an owner lock that shows itself stands in the way of reading, too; a quiet one does not', () => {
    expect(openingRemedy(emptyDevice({ ownerLock: 'on' }))).toBeNull();
    expect(openingRemedy(emptyDevice({ ownerLock: 'asking' }))).toMatch(/asks for its owner/);
  });

  test('the room asked for grows with the backup and always exceeds it', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1e13 }),
        fc.integer({ min: 0, max: 1e12 }),
        (size, more) => {
          expect(roomForRestore(size, LARGE)).toBeGreaterThan(size);
          expect(roomForRestore(size + more, LARGE)).toBeGreaterThanOrEqual(
            roomForRestore(size, LARGE),
          );
        },
      ),
    );
  });
});

/** All that can be said against one device, as a technician reads it. */
const told = (conditions: readonly Condition[]) =>
  conditions.map(
    (c) => `${c.weight} ${c.id} (${c.reading}): ${c.remedy ?? 'met'} ${c.otherwise ?? ''}`,
  );

const awkward = deviceFacts({
  ...{ lock: 'locked', approval: 'not-asked', activity: 'updating', charge: 7, empty: true },
  ...{ workshopPort: 'off', openingSteps: ['Settings', 'Port'], connection: 'network' },
  ...{ wearable: 'Wrist 3', ownerLock: 'on', osUpdate: { version: '17.3', bytes: 1e9 } },
  sealedStores: [
    { group: 'tansy', name: 'Tansy', confirmed: false },
    { group: 'tides', name: 'Tides', confirmed: true },
  ],
});

describe('every sentence', () => {
  test('of a device with everything against its backup', () => {
    expect(told(backupReadiness(awkward))).toMatchInlineSnapshot(`
      [
        "must unlocked (locked): Unlock the phone on the shop network with its passcode. ",
        "must workshop-port (off): Switch on the workshop port in the settings of the phone on the shop network. ",
        "must approved (not yet): On the phone on the shop network, approve this bench and confirm with the passcode. ",
        "must idle (updating): Leave the phone on the shop network alone until it is done. ",
        "must charged (7 %): Charge the phone on the shop network to 20 % (now 7 %). ",
        "must holds-something (empty): Connect the customer’s own device: this one is empty. ",
        "accept wearable (Wrist 3): Unpair Wrist 3 on the phone on the shop network: only then is its own data in the backup. What only Wrist 3 holds is not in the backup.",
        "accept store-tansy (sealed): Have the customer confirm their number in Tansy on the phone on the shop network. The chats of Tansy are not in the backup.",
        "accept store-tides (number confirmed): met ",
        "note update (Vireo OS 17.3 offered): Put the update to Vireo OS 17.3 off on the phone on the shop network until its backup is proven. The device may restart to update in the middle of the backup.",
      ]
    `);
    const port = backupReadiness(awkward).find((c) => c.id === 'workshop-port');
    expect(port?.steps).toEqual(['Settings', 'Port']);
  });

  test('of a device that nothing is wrong with', () => {
    const open = deviceFacts({
      workshopPort: 'on',
      openingSteps: ['Settings'],
      sealedStores: [{ group: 'tansy', name: 'Tansy', confirmed: true }],
    });
    expect(told(backupReadiness(open))).toMatchInlineSnapshot(`
      [
        "must unlocked (unlocked): met ",
        "must workshop-port (on): met ",
        "must approved (approved): met ",
        "must idle (idle): met ",
        "must charged (80 %): met ",
        "must holds-something (in use): met ",
        "accept wearable (none): met ",
        "accept store-tansy (number confirmed): met ",
      ]
    `);
    expect(backupReadiness(open).flatMap((c) => c.steps)).toEqual([]);
    expect(openingRemedy(open)).toBeNull();
    expect(asksNext(open)).toEqual([]);
  });

  test('of a target with everything against a restore', () => {
    const target = deviceFacts({ ...awkward, empty: false, family: 'marl', capacity: 12e9 });
    expect(told(restoreReadiness(target, { ...backup, osVersion: '18' }))).toMatchInlineSnapshot(`
      [
        "must family (Vireo): Connect a Vireo device: this backup goes only onto that family. ",
        "must unlocked (locked): Unlock the phone on the shop network with its passcode. ",
        "must workshop-port (off): Switch on the workshop port in the settings of the phone on the shop network. ",
        "must approved (not yet): On the phone on the shop network, approve this bench and confirm with the passcode. ",
        "must empty (in use): Everything on this phone would be lost: back it up and erase it first, or connect an empty one. ",
        "must owner-lock (on): Have the owner switch off the owner lock on the phone on the shop network; only they type that password. ",
        "must os (Vireo OS 17.2): Update the phone to Vireo OS 18 or newer first. ",
        "must capacity (2.00 GB free): Connect a device with 3.75 GB more free room. ",
        "must charged (7 %): Charge the phone on the shop network to 50 % (now 7 %). ",
        "must idle (updating): Leave the phone on the shop network alone until it is done. ",
      ]
    `);
    expect(writeReadiness(target).map((c) => c.id)).toEqual([
      ...['unlocked', 'workshop-port', 'approved', 'owner-lock', 'charged'],
    ]);
    expect(told(restoreReadiness(emptyDevice(), backup))).toMatchInlineSnapshot(`
      [
        "must family (Vireo): met ",
        "must unlocked (no passcode set): met ",
        "must approved (approved): met ",
        "must empty (empty): met ",
        "must owner-lock (off): met ",
        "must os (Vireo OS 17.2): met ",
        "must capacity (118 GB free): met ",
        "must charged (80 %): met ",
        "must idle (idle): met ",
      ]
    `);
  });

  test('of what its owner will be asked next', () => {
    const { capabilities } = awkward;
    const asking = { ...awkward, capabilities: { ...capabilities, confirmsBackup: true } };
    expect(asksNext(asking)).toMatchInlineSnapshot(`
      [
        "Its passcode, to unlock.",
        "Whether this bench may read it, and its passcode once more.",
        "Its passcode again, at the moment the backup starts.",
        "The customer’s number, in Tansy.",
      ]
    `);
    expect(asksNext({ ...asking, confirmation: 'given' })).toHaveLength(3);
    expect(asksNext({ ...asking, approval: 'approved' })).toHaveLength(3);
    expect(asksNext(awkward)).toHaveLength(3);
    expect(openingRemedy(awkward)).toBe('Unlock the phone on the shop network with its passcode.');
    expect(whereIs({ connection: 'cable', berth: 4 })).toBe('on berth 4');
  });
});

test('an approval is confirmed with the passcode only where there is one', () => {
  expect(approvalRemedy(deviceFacts())).toMatch(/bench and confirm with the passcode\.$/);
  expect(approvalRemedy(deviceFacts({ lock: 'no-passcode' }))).toMatch(/approve this bench\.$/);
});

test('a family restored in another way than whole takes no such backup', () => {
  const { capabilities } = deviceFacts();
  const device = emptyDevice({ capabilities: { ...capabilities, restore: 'none' } });
  expect(firstUnmet(restoreReadiness(device, backup))?.id).toBe('family');
});

test('a wearable counts only where its data would come with the backup', () => {
  const { capabilities } = deviceFacts();
  const device = deviceFacts({
    wearable: 'Wrist 3',
    capabilities: { ...capabilities, backup: 'files' },
  });
  expect(backupReadiness(device).map((c) => c.id)).not.toContain('wearable');
});

test('the least charge is enough, and one percent less is not', () => {
  expect(firstUnmet(backupReadiness(deviceFacts({ charge: 20 })))).toBeNull();
  expect(firstUnmet(backupReadiness(deviceFacts({ charge: 19 })))?.id).toBe('charged');
  expect(firstUnmet(restoreReadiness(emptyDevice({ charge: 50 }), backup))).toBeNull();
});

test('a restore needs the contents, a twentieth more, and working room of a tenth within its limits', () => {
  expect(roomForRestore(0, LARGE)).toBe(64e6);
  expect(roomForRestore(100e6, LARGE)).toBe(105e6 + 64e6);
  expect(roomForRestore(1e9, LARGE)).toBe(1.05e9 + 100e6);
  expect(roomForRestore(100e9, LARGE)).toBe(105e9 + 2e9);
  // A handset of 64 MB works in little.
  expect(roomForRestore(0, 64e6)).toBe(1.28e6);
  const need = roomForRestore(backup.bytes, LARGE);
  const free = (bytes: number) => emptyDevice({ capacity: 50e9, used: 50e9 - bytes });
  expect(firstUnmet(restoreReadiness(free(need), backup))).toBeNull();
  expect(firstUnmet(restoreReadiness(free(need - 1), backup))?.id).toBe('capacity');
});

test('what must hold cannot be accepted away, what is to be accepted can, and a note stops nobody', () => {
  const conditions = backupReadiness(awkward);
  const must = conditions.filter((c) => !c.met && c.weight === 'must').map((c) => c.id);
  expect(must.length).toBeGreaterThan(3);
  const all = conditions.map((c) => c.id);
  expect(stillUnmet(conditions, []).map((c) => c.id)).toEqual([...must, 'wearable', 'store-tansy']);
  expect(stillUnmet(conditions, all).map((c) => c.id)).toEqual(must);
  expect(stillUnmet(conditions, ['wearable']).map((c) => c.id)).toEqual([...must, 'store-tansy']);
  expect(stillUnmet(backupReadiness(deviceFacts()), [])).toEqual([]);
});

test('the roomiest rack that is here is told, what it keeps in reserve taken off, and just enough is enough', () => {
  const rack = (name: string, free: number, reserve: number, present = true) => ({
    ...{ id: name, name, free, reserve, present },
  });
  const device = { used: 50e9, kind: 'phone' as const };
  const away = rack('Cedar', 900e9, 0, false);
  const room = (...racks: ReturnType<typeof rack>[]) => rackReadiness(device, racks);
  expect(room(away, rack('Alder', 60e9, 10e9), rack('Birch', 55e9, 10e9))).toMatchObject({
    ...{ met: true, reading: 'Alder can take 50.0 GB' },
  });
  expect(room(rack('Alder', 60e9, 10e9 + 1)).met).toBe(false);
  // Of two that have the same the first; one that is below its reserve has none, not less than none.
  expect(room(rack('Alder', 30e9, 0), rack('Birch', 30e9, 0)).reading).toMatch(/^Alder/);
  expect(room(rack('Alder', 1e9, 5e9)).reading).toBe('Alder can take 0 B');
});
