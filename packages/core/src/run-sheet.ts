import type { DeviceFacts } from './device.js';
import { countOf, formatBytes } from './format.js';
import type { OperationKind } from './operation.js';
import { backupReadiness, firstUnmet } from './readiness.js';

export const visitReasons = {
  repair: 'Repair, the same device comes back',
  replacement: 'Replacement by another device',
  'safety-copy': 'Safety copy only',
} as const;
export type VisitReason = keyof typeof visitReasons;
export const visitReasonIds = Object.keys(visitReasons) as [VisitReason, ...VisitReason[]];

export const stepStates = ['waiting', 'ready', 'running', 'done', 'blocked', 'skipped'] as const;
export type StepState = (typeof stepStates)[number];
export type StepId = 'agree' | 'connect' | 'backup' | 'prove' | 'restore';

/** One line of a ticket's run sheet. */
export interface Step {
  id: StepId;
  title: string;
  state: StepState;
  /** What was supplied, by whom or what; each a short sentence. */
  evidence: string[];
  /** What to do now, or why it waits; null when there is nothing to say. */
  sentence: string | null;
}

/** What a run sheet is filled from. */
export interface RunSheetFacts {
  reason: VisitReason;
  agreedBackup: boolean;
  customerName: string;
  deviceSerial: string;
  /** The ticket's device as it is on the bench now; null when it is not there. */
  device: DeviceFacts | null;
  running: readonly OperationKind[];
  /** The ticket's newest backup. */
  backup: {
    items: number;
    bytes: number;
    failedItems: number;
    contentRevision: string;
    provenAt: Date | null;
    proofFailed: boolean;
  } | null;
  /** The newest restore of this ticket that ended well. */
  restored: { items: number; targetName: string } | null;
}

type Rule = (facts: RunSheetFacts) => Omit<Step, 'id' | 'title'>;

const says = (
  state: StepState,
  sentence: string | null = null,
  evidence: string[] = [],
): Omit<Step, 'id' | 'title'> => ({ state, sentence, evidence });

/** Each step, in order, with the rule that fills it. A rule reads facts only; it never looks at other steps. */
const steps: readonly { id: StepId; title: string; rule: Rule }[] = [
  {
    id: 'agree',
    title: 'Agree with the customer',
    rule: (f) =>
      f.agreedBackup
        ? says('done', null, [`${f.customerName} agreed to a backup.`])
        : says('blocked', 'Ask the customer whether a backup may be taken, and note it here.'),
  },
  {
    id: 'connect',
    title: 'Connect and open',
    rule: (f) => {
      if (!f.device) {
        return f.backup
          ? says('done', null, ['The device was read when its backup was taken.'])
          : says('ready', 'Connect the device to a free berth.');
      }
      // A device at work, or restored and empty again, is open: only what the technician must do counts.
      const unmet = firstUnmet(backupReadiness(f.device).filter((c) => c.id !== 'idle'));
      return unmet && !f.device.empty
        ? says('ready', unmet.remedy)
        : says('done', null, [
            `On berth ${f.device.berth}, unlocked, charge ${f.device.charge} %.`,
          ]);
    },
  },
  {
    id: 'backup',
    title: 'Take the backup',
    rule: (f) => {
      if (f.running.includes('backup')) return says('running', 'Leave the device on its cable.');
      if (f.backup) {
        const taken = `${countOf(f.backup.items, 'item')} taken, ${f.backup.failedItems} failed, ${formatBytes(f.backup.bytes)}.`;
        const changed =
          f.device?.contentRevision != null &&
          !f.device.empty &&
          f.device.contentRevision !== f.backup.contentRevision;
        return says(
          'done',
          changed
            ? 'The device changed since: take another backup before anything is erased.'
            : null,
          [taken],
        );
      }
      if (!f.agreedBackup) return says('blocked', 'The customer has not agreed to a backup.');
      if (!f.device) return says('waiting', 'Waits for the device.');
      const unmet = firstUnmet(backupReadiness(f.device));
      return unmet
        ? says('waiting', unmet.remedy)
        : says('ready', 'Choose a rack and a password, then start.');
    },
  },
  {
    id: 'prove',
    title: 'Prove it',
    rule: (f) => {
      if (f.running.includes('prove')) return says('running', 'Reading everything back.');
      if (!f.backup) return says('waiting', 'Waits for the backup.');
      if (f.backup.proofFailed) {
        return says('blocked', 'The proof failed: take a new backup and erase nothing.');
      }
      return f.backup.provenAt
        ? says('done', null, [
            'Opened with its password, every byte checked, every item read back.',
          ])
        : says('ready', 'Open it with its password. Nothing may be erased before that.');
    },
  },
  {
    id: 'restore',
    title: 'Restore',
    rule: (f) => {
      if (f.reason === 'safety-copy') return says('skipped', 'A safety copy is only kept.');
      if (f.running.includes('restore'))
        return says('running', 'Do not unplug the device, even while it is away.');
      if (f.restored) {
        return says('done', null, [
          `${countOf(f.restored.items, 'item')} on ${f.restored.targetName}, each compared with the backup.`,
        ]);
      }
      if (!f.backup) return says('waiting', 'Waits for the backup.');
      if (!f.backup.provenAt) return says('waiting', 'Waits for the proof.');
      return says('ready', 'Connect the device it goes onto, then open the restore.');
    },
  },
];

/** The ticket's run sheet as the facts have it now. */
export function runSheet(facts: RunSheetFacts): Step[] {
  return steps.map(({ id, title, rule }) => ({ id, title, ...rule(facts) }));
}

/** The one step that somebody should look at now: what runs, else what is blocked or ready, else what is done and says that it should be done again. */
export function currentStep(sheet: readonly Step[]): Step | null {
  return (
    sheet.find((s) => s.state === 'running') ??
    sheet.find((s) => s.state === 'blocked' || s.state === 'ready') ??
    sheet.find((s) => s.state === 'done' && s.sentence !== null) ??
    null
  );
}
