import { join } from 'node:path';
import type { Definition, StandInCondition } from './stand-in.js';

export interface DemoDevice {
  definition: Definition;
  condition: StandInCondition;
  /** What its contents are made from; null for an empty device. */
  seed: string | null;
}

/** The demo's devices: somebody's phone, locked, on berth 1; and a wiped replacement beside the bench. */
export function demoDevices(folder: string): DemoDevice[] {
  return [
    {
      seed: 'harrowmere one',
      definition: {
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
        folder: null,
      },
      condition: {
        berth: 1,
        unlocked: false,
        approved: false,
        ownerLock: 'on',
        charge: 64,
        passcodeSet: true,
        contents: join(folder, 'vireo-arc-7', 'contents'),
      },
    },
    {
      seed: null,
      definition: {
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
        folder: null,
      },
      condition: {
        berth: null,
        unlocked: false,
        approved: false,
        ownerLock: 'on',
        charge: 38,
        passcodeSet: false,
        contents: null,
      },
    },
  ];
}
