import type { Berth, Rack, Ticket } from '@bright-cellar/contract';
import { backupReadiness, type DeviceFacts } from '@bright-cellar/core';
import { deviceFacts } from '@bright-cellar/core/testing';

const uuid = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
export const TICKET = '26110001';
export const ARCHIVE = uuid(1);
export const BACKUP = uuid(2);

const NOON = '2026-11-24T12:00:00.000Z';

export function aTicket(change: Partial<Ticket> = {}): Ticket {
  return {
    number: TICKET,
    customerName: 'Ada Fennick',
    device: {
      id: uuid(3),
      family: 'vireo',
      familyName: 'Vireo',
      kind: 'phone',
      model: 'Arc 7',
      name: 'Ada’s phone',
      serial: 'VA7K0000TEST',
      imei: null,
      osName: 'Vireo OS',
      osVersion: '12.1',
      readFrom: 'cable',
    },
    reason: 'repair',
    openedAt: NOON,
    promisedAt: null,
    step: null,
    customer: { id: uuid(4), name: 'Ada Fennick', phone: '', email: '' },
    agreed: { backup: true, lookIn: false, escrow: false, keepDays: 30 },
    agreements: [],
    notes: '',
    openedBy: 'Wren',
    runSheet: [],
    berth: 1,
    archiveIds: [],
    knownArchive: null,
    operations: [],
    history: [],
    ...change,
  };
}

export function aRack(change: Partial<Rack> = {}): Rack {
  return {
    id: uuid(5),
    name: 'Alder',
    path: '/racks/alder',
    present: true,
    capacity: 1e12,
    free: 4e11,
    reserve: 2e10,
    archives: 3,
    storedBytes: 6e11,
    ...change,
  };
}

/** A berth with a device in it. */
export function aBerth(
  change: Partial<DeviceFacts> = {},
  ticketNumber: string | null = null,
): Berth {
  const device = deviceFacts({ id: 'd1', ...change });
  return {
    number: device.berth,
    connection: 'cable',
    asks: [],
    device,
    readiness: device.empty ? [] : backupReadiness(device),
    ticketNumber,
    customerName: null,
  };
}
