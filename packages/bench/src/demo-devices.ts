import { join } from 'node:path';
import { DEMO_SIZE, MIDDLE_SIZE, type ContentsSize } from './contents/sizes.js';
import type { Definition, GivenCondition } from './stand-in-state.js';

export interface DemoDevice {
  definition: Definition;
  condition: GivenCondition;
  /** What its contents are made from; null for an empty device. */
  seed: string | null;
  size: ContentsSize;
}

type Brief = Omit<Definition, 'imei' | 'folder'> &
  Partial<Pick<Definition, 'imei'>> & {
    seed?: string;
    size?: ContentsSize;
    condition: Omit<GivenCondition, 'contents' | 'unlocked' | 'approved' | 'passcodeSet'>;
  };

/**
 * The demo's devices: three families, somebody's phone on berth 1 and others beside it, each with its own
 * snag; wiped ones to restore onto. Berth 2 is free.
 */
const briefs: readonly Brief[] = [
  {
    seed: 'harrowmere one',
    size: DEMO_SIZE,
    id: 'vireo-arc-7',
    family: 'vireo',
    kind: 'phone',
    model: 'Arc 7',
    name: 'Tamsin’s phone',
    serial: 'VA7K2204Q81',
    imei: '990000862471854',
    osVersion: '17.2',
    capacity: 128_000_000_000,
    passcode: '402917',
    condition: { berth: 1, ownerLock: 'on', charge: 64 },
  },
  {
    id: 'vireo-arc-8',
    family: 'vireo',
    kind: 'phone',
    model: 'Arc 8',
    name: 'Arc 8',
    serial: 'VA8M3310T57',
    imei: '990000862478823',
    osVersion: '17.4',
    capacity: 256_000_000_000,
    passcode: null,
    condition: { berth: null, ownerLock: 'on', charge: 38 },
  },
  {
    seed: 'harrowmere two',
    id: 'marl-fell-3',
    family: 'marl',
    kind: 'phone',
    model: 'Fell 3',
    name: 'Celyn’s phone',
    serial: 'MF3-70214-KX',
    imei: '990000862479110',
    osVersion: '9.1',
    capacity: 64_000_000_000,
    passcode: '7351',
    condition: { berth: 3, ownerLock: 'off', charge: 51 },
  },
  {
    seed: 'harrowmere three',
    id: 'quillon-q40',
    family: 'quillon',
    kind: 'handset',
    model: 'Q40',
    name: 'Ferry office',
    serial: 'Q40A118822',
    imei: '990000862470027',
    osVersion: '3.5',
    capacity: 64_000_000,
    passcode: null,
    condition: { berth: 4, ownerLock: 'off', charge: 77 },
  },
  {
    seed: 'harrowmere four',
    id: 'vireo-arc-6',
    family: 'vireo',
    kind: 'phone',
    model: 'Arc 6',
    name: 'Fenn’s phone',
    serial: 'VA6J9072W15',
    imei: '990000862471003',
    osVersion: '16.4',
    capacity: 64_000_000_000,
    passcode: '118203',
    condition: {
      berth: null,
      ownerLock: 'on',
      charge: 17,
      wearable: 'Fenn’s band',
      osUpdate: { version: '17.0', bytes: 2_100_000_000 },
    },
  },
  {
    seed: 'harrowmere five',
    id: 'vireo-slate-11',
    family: 'vireo',
    kind: 'tablet',
    model: 'Slate 11',
    name: 'Shop loaner 2',
    serial: 'VS1K4418H60',
    osVersion: '17.2',
    capacity: 128_000_000_000,
    passcode: null,
    condition: { berth: null, ownerLock: 'off', charge: 92 },
  },
  {
    seed: 'harrowmere six',
    id: 'marl-fell-tab',
    family: 'marl',
    kind: 'tablet',
    model: 'Fell Tab',
    name: 'Allotment tablet',
    serial: 'MFT-31806-DP',
    osVersion: '9.0',
    capacity: 32_000_000_000,
    passcode: '2468',
    condition: {
      berth: null,
      ownerLock: 'off',
      charge: 80,
      workshopPort: 'on',
      osUpdate: { version: '9.1', bytes: 900_000_000 },
    },
  },
  {
    id: 'marl-fell-5',
    family: 'marl',
    kind: 'phone',
    model: 'Fell 5',
    name: 'Fell 5',
    serial: 'MF5-90177-BN',
    imei: '990000862479912',
    osVersion: '10.0',
    capacity: 128_000_000_000,
    passcode: null,
    condition: { berth: null, ownerLock: 'off', charge: 66 },
  },
  {
    id: 'quillon-q44',
    family: 'quillon',
    kind: 'handset',
    model: 'Q44',
    name: 'Q44',
    serial: 'Q44B200931',
    osVersion: '3.7',
    capacity: 64_000_000,
    passcode: null,
    condition: { berth: null, ownerLock: 'off', charge: 88 },
  },
];

export function demoDevices(folder: string): DemoDevice[] {
  return briefs.map(({ seed = null, size = MIDDLE_SIZE, condition, imei = null, ...rest }) => ({
    seed,
    size,
    definition: { ...rest, imei, folder: null },
    condition: {
      ...condition,
      unlocked: false,
      approved: false,
      passcodeSet: rest.passcode !== null,
      contents: seed === null ? null : join(folder, rest.id, 'contents'),
    },
  }));
}
