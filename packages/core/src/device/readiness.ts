import { compareOsVersions, type DeviceFacts } from './device.js';
import { formatBytes, GB, MB } from '../values/index.js';
import { isSettled, settlingSteps } from './settling.js';

/** One thing that must hold before the next step, as read from the device itself. */
export interface Condition {
  id: string;
  /** What must hold. */
  label: string;
  met: boolean;
  /** What the device says. */
  reading: string;
  /** What to do about it, in the imperative; null when met. */
  remedy: string | null;
  /** The same, step by step, where one sentence is not enough. */
  steps: string[];
  /** `must`: the work cannot start before; `accept`: it can when somebody accepts what is lost; `note`: good to know. */
  weight: 'must' | 'accept' | 'note';
  /** What is lost, or may happen, when the work starts all the same; null where it cannot. */
  otherwise: string | null;
}

/** The backup that a restore would put onto a device. */
export interface RestorableBackup {
  family: string;
  familyName: string;
  osVersion: string;
  /** Bytes of contents. */
  bytes: number;
}

export const MIN_RESTORE_CHARGE = 50;
export const MIN_BACKUP_CHARGE = 20;

function condition(
  id: string,
  label: string,
  met: boolean,
  reading: string,
  remedy: string,
  more: { steps?: readonly string[]; weight?: Condition['weight']; otherwise?: string } = {},
): Condition {
  return {
    id,
    label,
    met,
    reading,
    remedy: met ? null : remedy,
    steps: met ? [] : [...(more.steps ?? [])],
    weight: more.weight ?? 'must',
    otherwise: met ? null : (more.otherwise ?? null),
  };
}

/** Where a device is, as people say it: `on berth 2`, `on the shop network`. */
export function whereIs(device: Pick<DeviceFacts, 'berth' | 'connection'>): string {
  return device.connection === 'cable' ? `on berth ${device.berth}` : 'on the shop network';
}

/** What to do on the device so that it lets this bench read or write it. */
export function approvalRemedy(device: DeviceFacts): string {
  const confirm = device.lock === 'no-passcode' ? '' : ' and confirm with the passcode';
  return `On the ${device.kind} ${whereIs(device)}, approve this bench${confirm}.`;
}

function readable(device: DeviceFacts): Condition[] {
  const conditions = [
    condition(
      'unlocked',
      'Unlocked',
      device.lock !== 'locked',
      device.lock === 'locked'
        ? 'locked'
        : device.lock === 'unlocked'
          ? 'unlocked'
          : 'no passcode set',
      `Unlock the ${device.kind} ${whereIs(device)} with its passcode.`,
    ),
  ];
  if (device.workshopPort !== null) {
    conditions.push(
      condition(
        'workshop-port',
        'Workshop port on',
        device.workshopPort === 'on',
        device.workshopPort,
        `Switch on the workshop port in the settings of the ${device.kind} ${whereIs(device)}.`,
        { steps: device.openingSteps },
      ),
    );
  }
  if (device.capabilities.approval) {
    conditions.push(
      condition(
        'approved',
        'Approves this bench',
        device.approval === 'approved',
        device.approval === 'approved' ? 'approved' : 'not yet',
        approvalRemedy(device),
      ),
    );
  }
  // Only where it shows itself: one that is quiet stands in the way of a restore alone.
  if (device.ownerLock === 'asking') conditions.push(ownerLockOff(device));
  return conditions;
}

/** What to do on the device so that it can be read; null when it can. */
export function openingRemedy(device: DeviceFacts): string | null {
  return firstUnmet(readable(device))?.remedy ?? null;
}

function idle(device: DeviceFacts): Condition {
  return condition(
    'idle',
    'Doing nothing else',
    device.activity === 'idle',
    device.activity === 'idle' ? 'idle' : device.activity,
    `Leave the ${device.kind} ${whereIs(device)} alone until it is done.`,
  );
}

/** Nothing where nobody can read it. */
function charged(device: DeviceFacts, least: number): Condition[] {
  const { charge } = device;
  if (charge === null) return [];
  return [
    condition(
      'charged',
      `Charged to ${least} % or more`,
      charge >= least,
      `${charge} %`,
      `Charge the ${device.kind} ${whereIs(device)} to ${least} % (now ${charge} %).`,
    ),
  ];
}

/** What must hold before a full backup of this device may start. */
export function backupReadiness(device: DeviceFacts): Condition[] {
  return [
    ...readable(device),
    idle(device),
    ...charged(device, MIN_BACKUP_CHARGE),
    condition(
      'holds-something',
      'Holds something to take',
      !device.empty,
      device.empty ? 'empty' : 'in use',
      'Connect the customer’s own device: this one is empty.',
    ),
    ...worthMeeting(device),
  ];
}

/** What costs some of the contents, or a surprise, when it is left as it is; never what makes a backup impossible. */
function worthMeeting(device: DeviceFacts): Condition[] {
  const conditions: Condition[] = [];
  if (device.capabilities.backup === 'service') {
    conditions.push(
      condition(
        'wearable',
        'No wearable paired',
        device.wearable === null,
        device.wearable ?? 'none',
        `Unpair ${device.wearable ?? 'the wearable'} on the ${device.kind} ${whereIs(device)}: only then is its own data in the backup.`,
        {
          weight: 'accept',
          otherwise: `What only ${device.wearable ?? 'the wearable'} holds is not in the backup.`,
        },
      ),
    );
  }
  for (const store of device.sealedStores) {
    conditions.push(
      condition(
        `store-${store.group}`,
        `${store.name} gives its store out`,
        store.confirmed,
        store.confirmed ? 'number confirmed' : 'sealed',
        `Have the customer confirm their number in ${store.name} on the ${device.kind} ${whereIs(device)}.`,
        { weight: 'accept', otherwise: `The chats of ${store.name} are not in the backup.` },
      ),
    );
  }
  if (device.osUpdate) {
    conditions.push(
      condition(
        'update',
        'No update that installs by itself',
        false,
        `${device.osName} ${device.osUpdate.version} offered`,
        `Put the update to ${device.osName} ${device.osUpdate.version} off on the ${device.kind} ${whereIs(device)} until its backup is proven.`,
        {
          weight: 'note',
          otherwise: 'The device may restart to update in the middle of the backup.',
        },
      ),
    );
  }
  return conditions;
}

/** A rack as far as its room matters; bytes. */
export interface RackRoom {
  name: string;
  present: boolean;
  free: number;
  /** Kept free whatever comes. */
  reserve: number;
}

/**
 * Whether all that a device holds has room on one rack. Looked at before anything was estimated, so the
 * device's whole used room counts: that it does not fit is a warning, and the estimate decides.
 */
export function rackReadiness(
  device: Pick<DeviceFacts, 'used' | 'kind'>,
  racks: readonly RackRoom[],
): Condition {
  const spare = (rack: RackRoom) => Math.max(0, rack.free - rack.reserve);
  const roomiest = racks
    .filter((rack) => rack.present)
    .reduce<RackRoom | null>((a, b) => (a === null || spare(b) > spare(a) ? b : a), null);
  if (!roomiest) {
    return condition(
      'rack-room',
      'Room on a rack',
      false,
      'no rack is here',
      'Connect one of the shop’s racks: there is nowhere to put a backup.',
    );
  }
  return condition(
    'rack-room',
    'Room on a rack',
    spare(roomiest) >= device.used,
    `${roomiest.name} can take ${formatBytes(spare(roomiest))}`,
    `Make room on a rack, or take less: ${roomiest.name} can take ${formatBytes(spare(roomiest))}, and the ${device.kind} holds ${formatBytes(device.used)}.`,
    {
      weight: 'note',
      otherwise: 'Compressed it may fit all the same; the estimate says so before anything starts.',
    },
  );
}

/** What the device will ask its owner for next, so that nobody is surprised by it; each a sentence. */
export function asksNext(device: DeviceFacts): string[] {
  const asks: string[] = [];
  if (device.lock === 'locked') asks.push('Its passcode, to unlock.');
  if (device.capabilities.approval && device.approval !== 'approved')
    asks.push('Whether this bench may read it, and its passcode once more.');
  if (device.capabilities.confirmsBackup && device.confirmation !== 'given')
    asks.push('Its passcode again, at the moment the backup starts.');
  for (const store of device.sealedStores.filter((s) => !s.confirmed))
    asks.push(`The customer’s number, in ${store.name}.`);
  return asks;
}

/** Conditions that are not met and that nobody has accepted: what still stands in the way. */
export function stillUnmet(
  conditions: readonly Condition[],
  accepted: readonly string[],
): Condition[] {
  return conditions.filter(
    (c) => !c.met && (c.weight === 'must' || (c.weight === 'accept' && !accepted.includes(c.id))),
  );
}

/** What a device makes of what it takes, besides: indexes, previews. */
const MADE_OF_IT = 0.05;

/** Of a device's capacity a restore works in so much at least: a small one has little to spare, and needs little. */
const LEAST_WORKING_SHARE = 0.02;

/**
 * Bytes of free room a restore needs: the contents, a twentieth more for what the device makes of
 * them (indexes, previews), and working room for the install itself.
 * @param capacity of the device, bytes
 */
export function roomForRestore(contentBytes: number, capacity: number): number {
  const { made, working } = roomBeside(contentBytes, capacity);
  return Math.ceil(contentBytes + made + working);
}

/** What of that room is not the contents themselves, in bytes. */
export function roomBeside(
  contentBytes: number,
  capacity: number,
): { made: number; working: number } {
  const least = Math.min(64 * MB, capacity * LEAST_WORKING_SHARE);
  const working = Math.min(2 * GB, Math.max(least, contentBytes * 0.1));
  return { made: Math.ceil(contentBytes * MADE_OF_IT), working: Math.ceil(working) };
}

/** What must hold before any backup may be restored onto an empty device, whichever it is. */
export function writeReadiness(device: DeviceFacts): Condition[] {
  return [...readable(device), ...quietLockOff(device), ...charged(device, MIN_RESTORE_CHARGE)];
}

/** What to do about an owner lock that is on. */
export const ownerLockRemedy = (device: DeviceFacts): string | null => ownerLockOff(device).remedy;

/** One that shows itself is among what makes it readable. */
const quietLockOff = (device: DeviceFacts): Condition[] =>
  device.ownerLock === 'asking' ? [] : [ownerLockOff(device)];

function ownerLockOff(device: DeviceFacts): Condition {
  return condition(
    'owner-lock',
    'Owner lock off',
    device.ownerLock === 'off',
    device.ownerLock,
    device.ownerLock === 'asking'
      ? `The ${device.kind} ${whereIs(device)} asks for its owner: have them type their password on it; nobody else does.`
      : `Have the owner switch off the owner lock on the ${device.kind} ${whereIs(device)}; only they type that password.`,
  );
}

/** Nothing where nobody can say what runs on the device that was backed up. */
function newEnough(device: DeviceFacts, { osVersion }: RestorableBackup): Condition[] {
  if (osVersion === '') return [];
  return [
    condition(
      'os',
      `OS ${osVersion} or newer`,
      compareOsVersions(device.osVersion, osVersion) >= 0,
      `${device.osName} ${device.osVersion}`,
      `Update the ${device.kind} to ${device.osName} ${osVersion} or newer first.`,
    ),
  ];
}

/** What must hold before this backup may be restored onto this device. */
export function restoreReadiness(device: DeviceFacts, backup: RestorableBackup): Condition[] {
  const need = roomForRestore(backup.bytes, device.capacity);
  return [
    condition(
      'family',
      `Same family (${backup.familyName})`,
      device.family === backup.family && device.capabilities.restore === 'full',
      device.familyName,
      `Connect a ${backup.familyName} device: this backup goes only onto that family.`,
    ),
    ...readable(device),
    condition(
      'empty',
      'Empty, at its welcome screen',
      device.empty,
      device.empty ? 'empty' : 'in use',
      `Everything on this ${device.kind} would be lost: back it up and erase it first, or connect an empty one.`,
    ),
    ...quietLockOff(device),
    ...newEnough(device, backup),
    enoughRoom(device, need),
    ...charged(device, MIN_RESTORE_CHARGE),
    idle(device),
  ];
}

/**
 * What must hold before a chosen part of a backup, or one of another family, may be put onto this device. Whether it has room is
 * known once it was found out what goes over.
 */
export function crossingReadiness(device: DeviceFacts): Condition[] {
  const { takes } = device.capabilities;
  const adds = takes?.adds === true;
  return [
    condition(
      'takes',
      'Takes what is not a whole backup of its own',
      takes !== null,
      takes === null ? 'no' : adds ? 'beside what is on it' : 'while it is empty',
      `Connect another device: this ${device.kind} takes only a whole backup of its own family.`,
    ),
    ...readable(device),
    ...(adds
      ? []
      : [
          condition(
            'empty',
            'Empty, at its welcome screen',
            device.empty,
            device.empty ? 'empty' : 'in use',
            `This ${device.kind} takes all at once, and everything on it would be lost: back it up and erase it first, or connect an empty one.`,
          ),
          ...quietLockOff(device),
        ]),
    ...charged(device, MIN_RESTORE_CHARGE),
    idle(device),
  ];
}

/** Whether what goes over has room on a device. @param bytes of contents */
export const roomFor = (device: DeviceFacts, bytes: number): Condition =>
  enoughRoom(device, roomForRestore(bytes, device.capacity));

function enoughRoom(device: DeviceFacts, need: number): Condition {
  const free = device.capacity - device.used;
  const over = formatBytes(need - free);
  const [needed, there] = [formatBytes(need), formatBytes(free)];
  const less = device.capabilities.takes === null ? 'Connect' : 'Choose less, or connect';
  return condition(
    'capacity',
    `${needed} free`,
    free >= need,
    // A little too little is the same in round figures.
    free < need && needed === there ? `${over} too little` : `${there} free`,
    `${less} a device with ${over} more free room.`,
  );
}

/** What a device that was filled asks for next, as a sentence of what to do on it; null when it asks for nothing more. */
export function settlingRemedy(device: DeviceFacts): string | null {
  const next = device.settling.find((step) => !isSettled(step));
  if (!next) return null;
  const count = next.of > 1 ? ` (${next.done} of ${next.of})` : '';
  return `On the ${device.kind} ${whereIs(device)}, ${settlingSteps[next.id].remedy}${count}.`;
}

/** The first condition that must be met and is not decides what to do now; then the first that somebody must accept. */
export function firstUnmet(conditions: readonly Condition[]): Condition | null {
  const unmet = conditions.filter((c) => !c.met);
  return unmet.find((c) => c.weight === 'must') ?? unmet.find((c) => c.weight === 'accept') ?? null;
}
