import { compareOsVersions, type DeviceFacts } from './device.js';
import { formatBytes } from './format.js';
import { GB, MB } from './units.js';

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
): Condition {
  return { id, label, met, reading, remedy: met ? null : remedy };
}

/** What to do on the device so that it lets this bench read or write it. */
export function approvalRemedy(device: DeviceFacts): string {
  const confirm = device.lock === 'no-passcode' ? '' : ' and confirm with the passcode';
  return `On the ${device.kind} on berth ${device.berth}, approve this bench${confirm}.`;
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
      `Unlock the ${device.kind} on berth ${device.berth} with its passcode.`,
    ),
  ];
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
  return conditions;
}

function idle(device: DeviceFacts): Condition {
  return condition(
    'idle',
    'Doing nothing else',
    device.activity === 'idle',
    device.activity === 'idle' ? 'idle' : device.activity,
    `Leave the ${device.kind} on berth ${device.berth} alone until it is done.`,
  );
}

function charged(device: DeviceFacts, least: number): Condition {
  return condition(
    'charged',
    `Charged to ${least} % or more`,
    device.charge >= least,
    `${device.charge} %`,
    `Charge the ${device.kind} on berth ${device.berth} to ${least} % (now ${device.charge} %).`,
  );
}

/** What must hold before a full backup of this device may start. */
export function backupReadiness(device: DeviceFacts): Condition[] {
  return [
    ...readable(device),
    idle(device),
    charged(device, MIN_BACKUP_CHARGE),
    condition(
      'holds-something',
      'Holds something to take',
      !device.empty,
      device.empty ? 'empty' : 'in use',
      'Connect the customer’s own device: this one is empty.',
    ),
  ];
}

/**
 * Bytes of free room a restore needs: the contents, a twentieth more for what the device makes of
 * them (indexes, previews), and working room for the install itself.
 */
export function roomForRestore(contentBytes: number): number {
  const workingRoom = Math.min(2 * GB, Math.max(64 * MB, contentBytes * 0.1));
  return Math.ceil(contentBytes * 1.05 + workingRoom);
}

/** What must hold before this backup may be restored onto this device. */
export function restoreReadiness(device: DeviceFacts, backup: RestorableBackup): Condition[] {
  const free = device.capacity - device.used;
  const need = roomForRestore(backup.bytes);
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
    condition(
      'owner-lock',
      'Owner lock off',
      device.ownerLock === 'off',
      device.ownerLock,
      `Have the owner switch off the owner lock on the ${device.kind} on berth ${device.berth}; only they type that password.`,
    ),
    condition(
      'os',
      `OS ${backup.osVersion} or newer`,
      compareOsVersions(device.osVersion, backup.osVersion) >= 0,
      `${device.osName} ${device.osVersion}`,
      `Update the ${device.kind} to ${device.osName} ${backup.osVersion} or newer first.`,
    ),
    condition(
      'capacity',
      `${formatBytes(need)} free`,
      free >= need,
      `${formatBytes(free)} free`,
      `Connect a device with ${formatBytes(need - free)} more free room.`,
    ),
    charged(device, MIN_RESTORE_CHARGE),
    idle(device),
  ];
}

/** The first unmet condition decides what to do now. */
export function firstUnmet(conditions: readonly Condition[]): Condition | null {
  return conditions.find((c) => !c.met) ?? null;
}
