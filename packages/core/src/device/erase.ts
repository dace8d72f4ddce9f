import { serialTail, type DeviceFacts } from './device.js';
import { problem, type Problem, type BackupId, type CopyId } from '../values/index.js';

/** What is known of a backup when somebody wants to erase the device it came from. */
export interface BackupEvidence {
  backupId: BackupId;
  deviceSerial: string;
  /** The device's {@link DeviceFacts.contentRevision} when the backup was taken. */
  contentRevision: string;
  failedItems: number;
  /** It was to hold everything that the device gives out, not a chosen part. */
  everything: boolean;
  /** Which copy of its archive this speaks of; null where it is about the backup, wherever it lies. */
  copyId: CopyId | null;
  /**
   * When a full proof last found it whole in this copy, in the state that the copy has now; null when none did, or when
   * a later one found damage.
   */
  provenAt: Date | null;
}

/** How old a proof may be when a device is erased on the strength of it, as the house decides; hours. */
export const proofAges = ['12', '72', '168', '720'] as const;
export type ProofAge = (typeof proofAges)[number];
export const proofAgeNames: Record<ProofAge, string> = {
  '12': 'Twelve hours',
  '72': 'Three days',
  '168': 'A week',
  '720': 'Thirty days',
};
const HOUR_MS = 3_600_000;

/** What the age of a proof is judged by. */
export interface ProofTerms {
  now: Date;
  proofAge: ProofAge;
}

declare const proven: unique symbol;

/** A backup that was proven, lately enough, and holds what is on that device now. Only {@link provenBackupOf} makes one. */
export type ProvenBackup = BackupEvidence & { readonly [proven]: true };

/** The backup that makes it safe to erase this device, or why there is none. */
export function provenBackupOf(
  device: DeviceFacts,
  backups: readonly BackupEvidence[],
  { now, proofAge }: ProofTerms,
): ProvenBackup | Problem {
  const own = backups.filter((b) => b.deviceSerial === device.serial);
  if (device.contentRevision === null) {
    return problem('not-proven', {
      what: 'The device cannot be read now, so nobody can tell whether its backup is current.',
      next: 'Unlock the device and let it approve this bench.',
    });
  }
  const current = own.filter((b) => b.contentRevision === device.contentRevision);
  if (current.length === 0) {
    return problem(
      'not-proven',
      own.length > 0 ? { what: 'The contents of this device changed after its last backup.' } : {},
    );
  }
  const full = current.filter((b) => b.everything);
  if (full.length === 0) {
    return problem('not-proven', {
      what: 'The backup of this device holds only a chosen part of it.',
      next: 'Take a backup of everything, then prove it.',
    });
  }
  const whole = full.filter((b) => b.failedItems === 0);
  if (whole.length === 0) {
    return problem('not-proven', {
      what: 'The backup of this device misses items that could not be read.',
      next: 'Take a backup in which no item fails, then prove it.',
    });
  }
  const provenOnes = whole.filter((b) => b.provenAt !== null);
  if (provenOnes.length === 0) {
    return problem('not-proven', {
      what: 'The backup of this device has not been proven, or its last proof failed.',
      next: 'Prove the backup with its password first.',
    });
  }
  const oldest = now.getTime() - Number(proofAge) * HOUR_MS;
  const chosen = provenOnes.find(
    // A proof from the future is one of a clock that was wrong: it says nothing of its age.
    (b) => b.provenAt && b.provenAt.getTime() >= oldest && b.provenAt.getTime() <= now.getTime(),
  );
  if (!chosen) {
    return problem('not-proven', {
      what: `The last proof of this device’s backup is older than the house allows (${proofAgeNames[proofAge].toLowerCase()}).`,
      next: 'Prove the backup again with its password.',
    });
  }
  return chosen as ProvenBackup;
}

/** A command to erase, which exists only when everything that must hold does. */
export interface EraseOrder {
  readonly device: DeviceFacts;
  readonly proof: ProvenBackup;
}

/** An order to erase, or why there must not be one. `typedTail` is what the technician read off the device. */
export function eraseOrder(
  device: DeviceFacts,
  proof: ProvenBackup,
  typedTail: string,
): EraseOrder | Problem {
  if (proof.deviceSerial !== device.serial) return problem('not-proven');
  if (typedTail.trim().toUpperCase() !== serialTail(device.serial).toUpperCase()) {
    return problem('wrong-serial');
  }
  if (device.activity !== 'idle') return problem('device-busy');
  if (!device.capabilities.erase) return problem('device-refused');
  return { device, proof };
}

declare const checked: unique symbol;

/** A copy that was read from its medium just now, and is in the very state that was proven. */
export type CheckedCopy = { readonly archive: string; readonly digest: string } & {
  readonly [checked]: true;
};

declare const permitted: unique symbol;

/** What a device must be shown before it is told to erase itself. Only {@link permitErase} makes one. */
export type ErasePermit = { readonly serial: string } & { readonly [permitted]: true };

/**
 * The last look before a device is erased: minutes or hours may have gone since it was ordered.
 * @param order as it was recorded @param found of the copy that it rests on, and of the device, now
 */
export function permitErase(
  order: { serial: string; contentRevision: string; expected: { archive: string; digest: string } },
  found: { copy: CheckedCopy; contentRevision: string | null },
): ErasePermit | Problem {
  const { copy, contentRevision } = found;
  if (copy.archive !== order.expected.archive || copy.digest !== order.expected.digest) {
    return problem('not-proven', {
      what: 'Another copy was looked at than the one that was proven.',
    });
  }
  if (contentRevision === null || contentRevision !== order.contentRevision) {
    return problem('not-proven', {
      what: 'The contents of this device changed after its last backup.',
    });
  }
  return { serial: order.serial } as ErasePermit;
}

export function isProblem(value: object): value is Problem {
  return 'code' in value && 'what' in value && 'safe' in value;
}
