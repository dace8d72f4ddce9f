import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { DeviceFacts } from './device.js';
import { backupReadiness, firstUnmet } from './readiness.js';
import { currentStep, runSheet } from './run-sheet.js';
import { deviceFacts } from './test-devices.js';
import {
  doneProblem,
  eraseProblem,
  skipProblem,
  stepIds,
  stepsOf,
  visitReasonIds,
  type StepWord,
  type VisitBackup,
  type VisitFacts,
} from './visit.js';

const start: VisitFacts = {
  reason: 'replacement',
  agreed: { backup: true, lookIn: false, escrow: false, keepDays: 30 },
  customerName: 'Ada Mosswater',
  deviceSerial: 'VA7K0000TEST',
  device: deviceFacts(),
  running: [],
  backup: null,
  erased: false,
  restored: null,
  words: {},
};
const backup: VisitBackup = {
  id: 'b1',
  deviceSerial: 'VA7K0000TEST',
  items: 3,
  bytes: 900,
  failedItems: 0,
  contentRevision: 'revision-1',
  everything: true,
  provenAt: null,
  proofFailed: false,
};
/** Proofs in these tests are of 1970. */
const when = { now: new Date(1000), proofAge: '12' } as const;
const word = (state: StepWord['state']): StepWord => ({ state, reason: 'so', by: 'Wren', at: '' });
const states = (facts: VisitFacts) =>
  Object.fromEntries(runSheet(facts).map((s) => [s.id, s.state]));

describe('a run sheet', () => {
  test('walks from the agreement to the hand-over as evidence comes in', () => {
    const proven = { ...backup, provenAt: new Date(0) };
    const restored = { items: 3, targetName: 'Arc 8' };
    const walk: [Partial<VisitFacts>, string | undefined][] = [
      [{ agreed: { ...start.agreed, backup: false } }, 'agree'],
      [{ device: null }, 'connect'],
      [{ device: deviceFacts({ lock: 'locked', approval: 'not-asked' }) }, 'connect'],
      [{}, 'backup'],
      [{ running: ['backup'] }, 'backup'],
      [{ backup }, 'prove'],
      // A phone that locks itself meanwhile, or has a store that was left out on purpose, calls nobody.
      [{ backup, device: deviceFacts({ lock: 'locked', contentRevision: null }) }, 'prove'],
      [{ backup, device: deviceFacts({ wearable: 'Wrist 3' }) }, 'prove'],
      [
        { backup, device: deviceFacts({ wearable: 'Wrist 3', contentRevision: 'revision-2' }) },
        'connect',
      ],
      [{ backup: proven }, 'restore'],
      [{ backup: proven, restored }, 'check'],
      [{ backup: proven, restored, words: { check: word('done') } }, 'hand-over'],
      [
        {
          backup: proven,
          restored,
          words: { check: word('skipped'), 'hand-over': word('done') },
        },
        undefined,
      ],
      // What was done is asked for again when the device has changed since.
      [
        {
          device: deviceFacts({ contentRevision: 'revision-2' }),
          backup: proven,
          restored,
          words: { check: word('done'), 'hand-over': word('done') },
        },
        'backup',
      ],
    ];
    for (const [change, step] of walk) {
      expect(currentStep(runSheet({ ...start, ...change }))?.id).toBe(step);
    }
  });

  test.each(visitReasonIds)(
    'of a visit for %s has its steps in order, each with a title',
    (reason) => {
      const sheet = runSheet({ ...start, reason });
      expect(sheet.map((s) => s.id)).toEqual(stepsOf[reason]);
      for (const step of sheet) expect(step.title).toMatch(/^[A-Z]/);
    },
  );

  test('takes no backup that was not agreed to', () => {
    expect(states({ ...start, agreed: { ...start.agreed, backup: false } })).toMatchObject({
      agree: 'blocked',
      backup: 'blocked',
    });
  });

  test('says so when the device changed after its backup', () => {
    const changed = { ...start, backup, device: deviceFacts({ contentRevision: 'revision-2' }) };
    expect(runSheet(changed).find((s) => s.id === 'backup')?.sentence).toMatch(/changed since/);
  });

  test('a failed proof blocks, and a safety copy has nothing to restore', () => {
    expect(states({ ...start, backup: { ...backup, proofFailed: true } }).prove).toBe('blocked');
    expect(states({ ...start, reason: 'safety-copy' })).not.toHaveProperty('restore');
  });

  test('a repair waits until the device is not the only copy any more', () => {
    const repair = { ...start, reason: 'repair' as const, backup };
    expect(states(repair).repair).toBe('waiting');
    expect(states({ ...repair, backup: { ...backup, provenAt: new Date(0) } }).repair).toBe(
      'ready',
    );
  });

  test('a paired wearable is asked about and does not stop the run sheet', () => {
    const device = deviceFacts({ wearable: 'A band' });
    expect(firstUnmet(backupReadiness(device))?.weight).toBe('accept');
    expect(states({ ...start, device }).backup).toBe('ready');
  });
});

describe('skipping', () => {
  test('the backup and the proof never, but for a loaner that holds nobody’s data', () => {
    for (const reason of visitReasonIds) {
      const may = skipProblem({ ...start, reason }, 'backup') === null;
      expect(may).toBe(reason === 'loaner');
    }
    expect(skipProblem({ ...start, reason: 'loaner', backup }, 'prove')).not.toBeNull();
  });

  test('the restore, as long as nobody goes home with an erased device', () => {
    expect(skipProblem({ ...start, reason: 'repair' }, 'restore')).toBeNull();
    const erased = { ...start, reason: 'repair' as const, erased: true };
    expect(skipProblem(erased, 'restore')?.what).toMatch(/empty one/);
    const said = {
      ...erased,
      backup: { ...backup, provenAt: new Date(0) },
      words: { restore: word('skipped') },
    };
    expect(states(said).restore).toBe('ready');
  });

  test('only a few steps are a person’s to call done, and a check needs something to check', () => {
    const restored = { items: 3, targetName: 'Arc 8' };
    expect(
      stepIds.filter((id) => doneProblem({ ...start, restored, reason: 'repair' }, id) === null),
    ).toEqual(['repair', 'check', 'hand-over']);
    expect(doneProblem(start, 'check')?.what).toMatch(/Nothing was restored/);
  });
});

/**
 * A visit as it happens: what people and devices do, in any order. Kept apart from the rules on purpose:
 * it remembers the truth that the rules must not contradict.
 */
interface World {
  facts: VisitFacts;
  revision: number;
  readable: boolean;
  here: boolean;
  /** Every backup that was ever taken. */
  taken: {
    serial: string;
    revision: number;
    everything: boolean;
    failed: number;
    proven: boolean;
  }[];
}

const events = [
  'change-contents',
  'lock',
  'unlock',
  'unplug',
  'plug',
  'another-device',
  'take-everything',
  'take-a-part',
  'take-with-failures',
  'take-of-another',
  'prove',
  'find-damage',
  'erase',
  'restore',
  'skip',
  'say-done',
] as const;

function deviceOf(world: Omit<World, 'facts'>, serial: string): DeviceFacts | null {
  if (!world.here) return null;
  return deviceFacts({
    serial,
    lock: world.readable ? 'unlocked' : 'locked',
    contentRevision: world.readable ? `r${world.revision}` : null,
  });
}

function happen(world: World, event: (typeof events)[number]): World {
  const { facts } = world;
  const serial = facts.deviceSerial;
  const next = { ...world };
  const take = (change: Partial<VisitBackup> = {}) => {
    if (!world.here || !world.readable) return;
    const made: VisitBackup = {
      ...backup,
      deviceSerial: serial,
      contentRevision: `r${world.revision}`,
      ...change,
    };
    next.taken = [
      ...world.taken,
      {
        serial: made.deviceSerial,
        revision: world.revision,
        everything: made.everything,
        failed: made.failedItems,
        proven: false,
      },
    ];
    next.facts = { ...facts, backup: made };
  };
  switch (event) {
    case 'change-contents':
      next.revision += 1;
      break;
    case 'lock':
    case 'unlock':
      next.readable = event === 'unlock';
      break;
    case 'unplug':
    case 'plug':
      next.here = event === 'plug';
      break;
    case 'another-device':
      return { ...next, facts: { ...facts, device: deviceFacts({ serial: 'OTHER0001' }) } };
    case 'take-everything':
      take();
      break;
    case 'take-a-part':
      take({ everything: false });
      break;
    case 'take-with-failures':
      take({ failedItems: 2 });
      break;
    case 'take-of-another':
      take({ deviceSerial: 'OTHER0001' });
      break;
    case 'prove':
    case 'find-damage':
      if (!facts.backup) break;
      next.taken = world.taken.map((t, i) =>
        i === world.taken.length - 1 ? { ...t, proven: event === 'prove' } : t,
      );
      next.facts = {
        ...facts,
        backup: {
          ...facts.backup,
          provenAt: event === 'prove' ? new Date(0) : null,
          proofFailed: event === 'find-damage',
        },
      };
      break;
    case 'erase':
      if (eraseProblem(facts, when) === null) next.facts = { ...facts, erased: true };
      break;
    case 'restore':
      next.facts = { ...facts, restored: { items: 1, targetName: 'it' } };
      break;
    case 'skip':
    case 'say-done': {
      const may = event === 'skip' ? skipProblem : doneProblem;
      const words = Object.fromEntries(
        stepIds
          .filter((id) => may(facts, id) === null)
          .map((id) => [id, word(event === 'skip' ? 'skipped' : 'done')]),
      );
      next.facts = { ...facts, words: { ...facts.words, ...words } };
      break;
    }
  }
  next.facts = { ...next.facts, device: deviceOf(next, serial) };
  return next;
}

describe('whatever happens, in whatever order', () => {
  const sequences = fc.array(fc.constantFrom(...events), { maxLength: 25 });
  const reasons = fc.constantFrom(...visitReasonIds);
  const world = (reason: VisitFacts['reason']): World => ({
    facts: { ...start, reason, device: deviceFacts({ contentRevision: 'r0' }) },
    revision: 0,
    readable: true,
    here: true,
    taken: [],
  });

  test('nothing reaches “may erase” without a proven backup of that device, newer than its last change', () => {
    let allowed = 0;
    fc.assert(
      fc.property(reasons, sequences, (reason, sequence) => {
        let now = world(reason);
        for (const event of sequence) {
          now = happen(now, event);
          if (eraseProblem(now.facts, when) !== null) continue;
          allowed += 1;
          expect(now.facts.device?.serial).toBe(now.facts.deviceSerial);
          expect(
            now.taken.some(
              (t) =>
                t.serial === now.facts.deviceSerial &&
                t.revision === now.revision &&
                t.everything &&
                t.failed === 0 &&
                t.proven,
            ),
          ).toBe(true);
        }
      }),
      { numRuns: 3000 },
    );
    // The rule is not kept by forbidding everything.
    expect(allowed).toBeGreaterThan(20);
  });

  test('no restore and no repair is offered before a proof, and exactly one step leads', () => {
    fc.assert(
      fc.property(reasons, sequences, (reason, sequence) => {
        let now = world(reason);
        for (const event of sequence) {
          now = happen(now, event);
          const sheet = runSheet(now.facts);
          for (const id of ['restore', 'repair'] as const) {
            const step = sheet.find((s) => s.id === id);
            if (step?.state === 'ready') expect(now.facts.backup?.provenAt).toBeTruthy();
          }
          for (const step of sheet) {
            if (step.state === 'blocked' || step.state === 'ready')
              expect(step.sentence).toMatch(/\.$/);
            if (step.skippable) expect(skipProblem(now.facts, step.id)).toBeNull();
          }
        }
      }),
    );
  });
});
