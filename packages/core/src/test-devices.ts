import type { z } from 'zod';
import {
  type DeviceFacts,
  type deviceFactsSchema,
  isProblem,
  permitErase,
  type CheckedCopy,
  type ErasePermit,
} from './device/index.js';

export { randomFrom } from './test-random.js';

/** What is different of a device, as the link says it. */
export type Change = Partial<z.input<typeof deviceFactsSchema>>;

/** A device's facts for tests: open, charged, in use; change what the test is about. */
export function deviceFacts(change: Change = {}): DeviceFacts {
  const facts: z.input<typeof deviceFactsSchema> = {
    id: 'device-1',
    berth: 1,
    connection: 'cable',
    family: 'vireo',
    familyName: 'Vireo',
    kind: 'phone',
    model: 'Arc 7',
    name: 'Test phone',
    serial: 'VA7K0000TEST',
    imei: null,
    osName: 'Vireo OS',
    osVersion: '17.2',
    capacity: 128e9,
    used: 10e9,
    content: [{ class: 'contacts', items: 3, bytes: 900 }],
    contentRevision: 'revision-1',
    charge: 80,
    lock: 'unlocked',
    approval: 'approved',
    workshopPort: null,
    openingSteps: [],
    confirmation: 'none',
    wearable: null,
    sealedStores: [],
    osUpdate: null,
    ownerLock: 'off',
    empty: false,
    settling: [],
    activity: 'idle',
    screen: 'Home screen.',
    capabilities: {
      backup: 'service',
      choose: 'groups',
      sensitiveOnlyEncrypted: true,
      confirmsBackup: false,
      restore: 'full',
      erase: true,
      approval: true,
      takes: null,
    },
    ...change,
  };
  return facts as DeviceFacts;
}

export const emptyDevice = (change: Change = {}): DeviceFacts =>
  deviceFacts({ empty: true, content: [], lock: 'no-passcode', serial: 'VA8M0000NEW1', ...change });

/** As if a copy had been read from its medium just now. */
export const checkedCopy = (archive = 'a', digest = 'd'): CheckedCopy =>
  ({ archive, digest }) as CheckedCopy;

/** A permit for a device, as the last look before an erase gives it. */
export function erasePermit(serial: string): ErasePermit {
  const copy = checkedCopy();
  const permit = permitErase(
    { serial, contentRevision: 'r', expected: copy },
    { copy, contentRevision: 'r' },
  );
  if (isProblem(permit)) throw new Error(permit.what);
  return permit;
}
