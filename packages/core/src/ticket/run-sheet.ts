import { type DeviceFacts, backupReadiness, firstUnmet, settlingRemedy } from '../device/index.js';
import { countOf, formatBytes } from '../values/index.js';
import {
  changedSince,
  skipProblem,
  stepsOf,
  type StepId,
  type VisitFacts,
  type VisitReason,
} from './visit.js';

export const stepStates = ['waiting', 'ready', 'running', 'done', 'blocked', 'skipped'] as const;
export type StepState = (typeof stepStates)[number];

/** One line of a ticket's run sheet. */
export interface Step {
  id: StepId;
  title: string;
  state: StepState;
  /** What was supplied, by whom or what; each a short sentence. */
  evidence: string[];
  /** What to do now, or why it waits; null when there is nothing to say. */
  sentence: string | null;
  /** Whether somebody may skip it now, with a reason. */
  skippable: boolean;
}

type Said = Pick<Step, 'state' | 'sentence' | 'evidence'>;
type Rule = (facts: VisitFacts) => Said;

const says = (state: StepState, sentence: string | null = null, evidence: string[] = []): Said => ({
  state,
  sentence,
  evidence,
});

/** Where the title of a step depends on the reason. */
const otherTitles: Partial<Record<VisitReason, Partial<Record<StepId, string>>>> = {
  recovered: { connect: 'Bring it in', backup: 'Take it over' },
  'safety-copy': { 'hand-over': 'Give the device back' },
  loaner: { 'hand-over': 'Back on the shelf' },
};

/**
 * Each step with the rule that fills it: the states of docs/run-sheet.md as data. A rule reads facts
 * only; it never looks at other steps.
 */
const rules: Record<StepId, { title: string; rule: Rule }> = {
  agree: {
    title: 'Agree with the customer',
    rule: (f) => {
      if (!f.agreed.backup)
        return says('blocked', 'Ask the customer whether a backup may be taken, and note it here.');
      const more = [
        f.agreed.keepDays > 0
          ? `Kept ${countOf(f.agreed.keepDays, 'day')} after the visit.`
          : 'Not kept after the visit.',
        ...(f.agreed.lookIn ? ['Looking inside was agreed.'] : []),
        ...(f.agreed.escrow ? ['Escrow was agreed.'] : []),
      ];
      return says('done', null, [`${f.customerName} agreed to a backup.`, ...more]);
    },
  },
  connect: {
    title: 'Connect and open',
    rule: (f) => {
      if (!f.device) {
        return f.backup
          ? says('done', null, ['The device was read when its backup was taken.'])
          : says(
              'ready',
              f.reason === 'recovered'
                ? 'Connect the device to a free berth; or put what was recovered into “incoming” on a rack, and take it over below.'
                : 'Connect the device to a free berth.',
            );
      }
      // A device at work, or restored and empty again, is open: only what the technician must do counts.
      const unmet = firstUnmet(backupReadiness(f.device).filter((c) => c.id !== 'idle'));
      const where =
        f.device.connection === 'cable' ? `On berth ${f.device.berth}` : 'On the shop network';
      if (!unmet || f.device.empty)
        return says('done', null, [`${where}, ${openWords(f.device)}.`]);
      // A phone that locks itself once its backup is taken calls nobody; one that changed since must be read again.
      return f.backup && !changedSince(f)
        ? says('done', null, [`${where}; it was read when its backup was taken.`])
        : says('ready', unmet.remedy);
    },
  },
  backup: {
    title: 'Take the backup',
    rule: (f) => {
      if (f.running.includes('backup')) return says('running', 'Leave the device on its cable.');
      if (f.backup) {
        const taken = `${countOf(f.backup.items, 'item')} taken, ${f.backup.failedItems} failed, ${formatBytes(f.backup.bytes)}${f.backup.everything ? '' : f.reason === 'recovered' ? ', as far as it was recovered' : ', a chosen part'}.`;
        return says(
          'done',
          changedSince(f)
            ? 'The device changed since: take another backup before anything is erased.'
            : null,
          [taken],
        );
      }
      if (f.words.backup?.state === 'skipped') return skipped(f, 'backup');
      if (!f.agreed.backup) return says('blocked', 'The customer has not agreed to a backup.');
      if (!f.device) {
        // What somebody recovered needs no device: it lies in a folder.
        return f.reason === 'recovered'
          ? says('ready', 'Choose the folder that was recovered, give it a password, and start.')
          : says('waiting', 'Waits for the device.');
      }
      const unmet = firstUnmet(backupReadiness(f.device));
      if (unmet?.weight === 'must') return says('waiting', unmet.remedy);
      return says(
        'ready',
        'Decide what is taken and where it goes, give it a password, and start.',
      );
    },
  },
  prove: {
    title: 'Prove it',
    rule: (f) => {
      if (f.running.includes('prove')) return says('running', 'Reading everything back.');
      if (!f.backup) {
        return f.words.prove?.state === 'skipped'
          ? skipped(f, 'prove')
          : says('waiting', 'Waits for the backup.');
      }
      if (f.backup.proofFailed) {
        return says('blocked', 'The proof failed: take a new backup and erase nothing.');
      }
      if (f.running.includes('restore') && !f.backup.provenAt)
        return says('waiting', 'It is proven by itself while the new device installs it.');
      return f.backup.provenAt
        ? says('done', null, [
            'Opened with its password, every byte checked, every item read back.',
          ])
        : says('ready', 'Open it with its password. Nothing may be erased before that.');
    },
  },
  repair: {
    title: 'Repair',
    rule: (f) => {
      const word = wordOf(f, 'repair');
      if (word) return word;
      if (!f.backup?.provenAt)
        return says(
          'waiting',
          'Waits for a proven backup: until then the device is the only copy.',
        );
      return says('ready', 'Repair the device; then say here that it is done.');
    },
  },
  restore: {
    title: 'Restore',
    rule: (f) => {
      if (f.running.includes('restore') || f.running.includes('cross'))
        return says('running', 'Do not unplug the device, even while it is away.');
      if (f.restored) {
        return says('done', null, [
          `${countOf(f.restored.items, 'item')} on ${f.restored.targetName}, each compared with the backup.`,
          ...(f.restored.stayed > 0
            ? [`${countOf(f.restored.stayed, 'item')} stayed behind, as the customer knows.`]
            : []),
        ]);
      }
      if (f.words.restore?.state === 'skipped' && skipProblem(f, 'restore') === null)
        return skipped(f, 'restore');
      if (!f.backup) return says('waiting', 'Waits for the backup.');
      if (!f.backup.provenAt) return says('waiting', 'Waits for the proof.');
      return says(
        'ready',
        f.reason === 'repair' && !f.erased
          ? 'Restore it, or skip this if the repaired device still holds everything.'
          : 'Connect the device it goes onto, then open the restore.',
      );
    },
  },
  check: {
    title: 'Check with the customer',
    rule: (f) => {
      const word = wordOf(f, 'check');
      if (word) return word;
      const asks = f.target && settlingRemedy(f.target);
      if (f.restored && asks) return says('ready', asks);
      return f.restored
        ? says('ready', 'Look with the customer: photographs, contacts, messages, home screen.')
        : says('waiting', 'Waits for the restore.');
    },
  },
  'hand-over': {
    title: 'Hand over',
    rule: (f) => {
      const word = wordOf(f, 'hand-over');
      if (word) return word;
      const last = f.reason === 'safety-copy' || f.reason === 'loaner' ? 'prove' : 'check';
      const before = rules[last].rule(f).state;
      return before === 'done' || before === 'skipped'
        ? says(
            'ready',
            'Give the device back; say who holds the password and what downloads later.',
          )
        : says('waiting', 'Waits for the steps before it.');
    },
  },
};

const openWords = ({ charge }: DeviceFacts) =>
  charge === null ? 'readable' : `unlocked, charge ${charge} %`;

function skipped(f: VisitFacts, step: StepId): Said {
  const word = f.words[step];
  return says('skipped', word ? `Skipped by ${word.by}: ${word.reason}` : null);
}

/** A step that somebody called done, or skipped. */
function wordOf(f: VisitFacts, step: StepId): Said | null {
  const word = f.words[step];
  if (!word) return null;
  if (word.state === 'skipped') return skipped(f, step);
  return says('done', null, [word.reason ? `${word.by}: ${word.reason}` : `Said by ${word.by}.`]);
}

/** The ticket's run sheet as the facts have it now. */
export function runSheet(facts: VisitFacts): Step[] {
  return stepsOf[facts.reason].map((id) => {
    const { title, rule } = rules[id];
    const said = rule(facts);
    return {
      id,
      title: otherTitles[facts.reason]?.[id] ?? title,
      ...said,
      // Offered where the step is next; a loaner that nobody's data is on may skip what still waits.
      skippable:
        (said.state === 'ready' || (said.state === 'waiting' && facts.reason === 'loaner')) &&
        skipProblem(facts, id) === null,
    };
  });
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
