import { type BackupId, problem, type Problem } from '../values/index.js';
import type { Agreed } from './agreement.js';
import { type DeviceFacts, provenBackupOf, type ProofTerms } from '../device/index.js';
import type { OperationKind } from '../operations/index.js';

export const visitReasons = {
  repair: 'Repair, the same device comes back',
  replacement: 'Replacement by another device',
  recovered: 'Dying, or recovered elsewhere',
  'safety-copy': 'Safety copy only',
  loaner: 'Shop loaner or fleet device',
} as const;
export type VisitReason = keyof typeof visitReasons;
export const visitReasonIds = Object.keys(visitReasons) as [VisitReason, ...VisitReason[]];

export const stepIds = [
  'agree',
  'connect',
  'backup',
  'prove',
  'repair',
  'restore',
  'check',
  'hand-over',
] as const;
export type StepId = (typeof stepIds)[number];

/** The steps of each reason, in order. docs/run-sheet.md draws them. */
export const stepsOf: Record<VisitReason, readonly StepId[]> = {
  repair: ['agree', 'connect', 'backup', 'prove', 'repair', 'restore', 'check', 'hand-over'],
  replacement: ['agree', 'connect', 'backup', 'prove', 'restore', 'check', 'hand-over'],
  recovered: ['agree', 'connect', 'backup', 'prove', 'restore', 'check', 'hand-over'],
  'safety-copy': ['agree', 'connect', 'backup', 'prove', 'hand-over'],
  loaner: ['agree', 'connect', 'backup', 'prove', 'hand-over'],
};

/** Somebody's word that a step is done, or why it is skipped. */
export interface StepWord {
  state: 'done' | 'skipped';
  reason: string;
  by: string;
  /** UTC. */
  at: string;
}

/** The newest backup of a visit. */
export interface VisitBackup {
  id: BackupId;
  deviceSerial: string;
  items: number;
  bytes: number;
  failedItems: number;
  /** The device's content revision when it was taken. */
  contentRevision: string;
  /** It was to hold everything that the device gives out. */
  everything: boolean;
  provenAt: Date | null;
  proofFailed: boolean;
}

/** All that is known of a visit: what its run sheet is filled from, and what its rules judge by. */
export interface VisitFacts {
  reason: VisitReason;
  agreed: Agreed;
  customerName: string;
  deviceSerial: string;
  /** The ticket's device as it is on the bench now; null when it is not there. */
  device: DeviceFacts | null;
  running: readonly OperationKind[];
  backup: VisitBackup | null;
  /** The device was erased during this visit. */
  erased: boolean;
  /** The newest restore of this ticket that ended well. */
  restored: { items: number; targetName: string; stayed: number } | null;
  /** The device that it went onto, as it is on the bench now; null when it is not there. */
  target: DeviceFacts | null;
  words: Partial<Record<StepId, StepWord>>;
}

/** Whether the device holds something that its newest backup does not. */
export function changedSince({ device, backup }: Pick<VisitFacts, 'device' | 'backup'>): boolean {
  return (
    backup !== null &&
    device?.contentRevision != null &&
    !device.empty &&
    device.contentRevision !== backup.contentRevision
  );
}

/** Why the device may not be erased now; null when it may. The same rule as the order to erase itself. */
export function eraseProblem(facts: VisitFacts, when: ProofTerms): Problem | null {
  if (!facts.device) return problem('device-not-here');
  const { backup } = facts;
  const evidence = backup ? [{ ...backup, backupId: backup.id, copyId: null }] : [];
  const judged = provenBackupOf(facts.device, evidence, when);
  return 'code' in judged ? judged : null;
}

/** Steps that a person may call done. All others are done by evidence only. */
const byHand: ReadonlySet<StepId> = new Set<StepId>(['repair', 'check', 'hand-over']);

/** Why a person may not call a step done; null when they may. */
export function doneProblem(facts: VisitFacts, step: StepId): Problem | null {
  if (!stepsOf[facts.reason].includes(step) || !byHand.has(step)) {
    return refused('Only evidence from the device can say that this step is done.');
  }
  if (step === 'check' && !facts.restored && facts.words.restore?.state !== 'skipped') {
    return refused('Nothing was restored yet that could be checked.');
  }
  return null;
}

/** Steps whose leaving out harms nobody, each with the reason why it may still not be skipped now. */
const skippable: Partial<Record<StepId, (facts: VisitFacts) => string | null>> = {
  backup: (f) =>
    f.reason === 'loaner' && !f.erased
      ? null
      : 'A visit without a backup leaves the customer’s only copy on the device.',
  prove: (f) =>
    f.reason === 'loaner' && !f.erased && f.backup === null
      ? null
      : 'A backup that nobody opened may not open.',
  repair: () => null,
  restore: (f) =>
    f.erased
      ? 'The device was erased: without a restore the customer goes home with an empty one.'
      : null,
  check: () => null,
};

/** Why a step may not be skipped; null when it may, with a reason. */
export function skipProblem(facts: VisitFacts, step: StepId): Problem | null {
  const rule = skippable[step];
  if (!rule || !stepsOf[facts.reason].includes(step)) {
    return refused('This step cannot be skipped.');
  }
  const why = rule(facts);
  return why === null ? null : refused(why);
}

function refused(what: string): Problem {
  return problem('step-refused', { what });
}
