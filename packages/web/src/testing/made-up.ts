import type {
  Archive,
  Backup,
  BenchView,
  Berth,
  DeskAction,
  Operation,
  Rack,
  RoleRow,
  Session,
  ShopSettings,
  Ticket,
} from '@bright-cellar/contract';
import {
  backupReadiness,
  builtInRole,
  builtInRoles,
  usualBenchRules,
  usualLooking,
  usualSignIn,
  type BuiltInRole,
} from '@bright-cellar/core';
import { deviceFacts, type Change } from '@bright-cellar/core/testing';

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
    closedAt: null,
    openedBy: 'Wren',
    runSheet: [],
    berth: 1,
    archiveIds: [],
    settling: [],
    knownArchive: null,
    operations: [],
    history: [],
    ...change,
  };
}

/** An archive without a backup in it. */
export function anArchive(change: Partial<Archive> = {}): Archive {
  return {
    id: ARCHIVE,
    ticketNumber: TICKET,
    customerName: 'Ada Fennick',
    device: aTicket().device,
    takenAt: '2026-10-02T09:00:00.000Z',
    items: 10,
    bytes: 1e6,
    storedBytes: 8e5,
    rackName: 'Alder',
    provenAt: null,
    damaged: false,
    passwordHolder: 'customer',
    encrypted: true,
    escrow: false,
    reminder: 'The harbour',
    backups: [],
    disposal: null,
    copies: [],
    ...change,
  };
}

export function aBackup(change: Partial<Backup> = {}): Backup {
  return {
    id: BACKUP,
    archiveId: ARCHIVE,
    takenAt: NOON,
    takenBy: 'Wren',
    osVersion: '12.1',
    items: 10,
    bytes: 1e6,
    storedBytes: 8e5,
    newItems: 10,
    newBytes: 1e6,
    durationMs: 1000,
    digest: 'd'.repeat(64),
    failed: [],
    classes: [],
    scope: { mode: 'everything', encrypted: true, everything: true },
    coverage: [],
    proofs: [],
    ...change,
  };
}

export function aRack(change: Partial<Rack> = {}): Rack {
  return {
    id: uuid(5),
    name: 'Alder',
    kind: 'fixed',
    code: '90001',
    note: '',
    offPremises: false,
    mounted: '/racks/alder',
    where: '/racks/alder',
    awayWhy: '',
    present: true,
    seenAt: '2026-11-24T09:00:00.000Z',
    retiredAt: null,
    capacity: 1e12,
    free: 4e11,
    reserve: 2e10,
    archives: 3,
    storedBytes: 6e11,
    ...change,
  };
}

export const aSession = (role: BuiltInRole = 'keeper'): Session => ({
  may: [...builtInRole(role).permissions],
  ...{ locked: false, lockMinutes: 15, mustEnrol: false },
  roles: builtInRoles.map(({ id, name, permissions }) => ({
    ...{ id: id, name, permissions: [...permissions] },
  })),
  technician: { id: uuid(900), name: 'Wren Gorsegate', login: 'wren', role },
  ...{ csrfToken: 'token', trayAddress: null, shopName: 'Harrow Street Repairs' },
});

export const houseRules: ShopSettings = {
  ...{ namePattern: '{ticket}_{date}', updatePolicy: 'never', proofAge: '72' },
  shop: { name: 'Harrow Street Repairs', address: '' },
  disposal: { forgetsNames: false, forgetAfter: '0' },
  signIn: usualSignIn,
  looking: usualLooking,
  bench: usualBenchRules,
  copySpeed: 'no-limit',
  care: {
    ...{ copies: '1', offPremises: false, checkEvery: '90', copiesByThemselves: true },
    quietHours: { from: 1320, to: 360 },
  },
};

/** The customer's own page, as it stands: none, where not said. */
export const aDesk = (
  state: 'none' | 'waiting' | 'given' | 'held' = 'none',
  until: string | null = null,
  action: DeskAction = 'backup',
) => ({ state, until, action: state === 'none' ? null : action, openings: 0, openedBy: [] });

/** A berth with a device in it. */
export function aBerth(change: Change = {}, ticketNumber: string | null = null): Berth {
  const device = deviceFacts({ id: 'd1', ...change });
  return {
    number: device.berth,
    connection: 'cable',
    asks: [],
    odd: [],
    device,
    readiness: device.empty ? [] : backupReadiness(device),
    ticketNumber,
    customerName: null,
  };
}

/** A bench that answers, with these on it. */
export const aBench = (...berths: Berth[]): BenchView => ({
  connected: true,
  storage: false,
  berths,
  away: [],
});

/** A backup that runs. */
export function anOperation(
  change: Partial<{ [Key in keyof Operation]: Operation[Key] }> = {},
): Operation {
  return {
    id: BACKUP,
    kind: 'backup',
    state: 'running',
    ticketNumber: TICKET,
    deviceId: 'd1',
    deviceName: 'Test phone',
    archiveId: null,
    backupId: null,
    phase: 'taking',
    doneBytes: 2_500_000_000,
    totalBytes: 10_000_000_000,
    doneItems: 400,
    totalItems: 1_600,
    rate: 25_000_000,
    leftLowMs: 280_000,
    leftHighMs: 340_000,
    needs: null,
    estimate: null,
    retryable: 0,
    startedAt: '2026-11-24T12:00:00.000Z',
    endedAt: null,
    startedBy: 'Wren',
    result: null,
    problem: null,
    keptBytes: null,
    ...change,
  } as Operation;
}

/** The roles that every shop has, as the list of them tells. */
export const someRoles = (): RoleRow[] =>
  aSession().roles.map((role) => ({ ...role, builtIn: true, people: 1 }));
