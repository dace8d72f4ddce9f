import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { afterOperationEvent, isOver, operationStates } from './operation.js';
import { passwordProblem } from './password.js';
import { Failure, problemOf, problems } from './problem.js';
import { currentStep, runSheet, type RunSheetFacts } from './run-sheet.js';
import { deviceFacts } from './test-devices.js';

const start: RunSheetFacts = {
  reason: 'replacement',
  agreedBackup: true,
  customerName: 'Ada Mosswater',
  deviceSerial: 'VA7K0000TEST',
  device: deviceFacts(),
  running: [],
  backup: null,
  restored: null,
};
const backup = {
  items: 3,
  bytes: 900,
  failedItems: 0,
  contentRevision: 'revision-1',
  provenAt: null,
  proofFailed: false,
};
const states = (facts: RunSheetFacts) =>
  Object.fromEntries(runSheet(facts).map((s) => [s.id, s.state]));

describe('a run sheet', () => {
  test('walks from the agreement to the restore as evidence comes in', () => {
    const walk: [Partial<RunSheetFacts>, string | undefined][] = [
      [{ agreedBackup: false }, 'agree'],
      [{ device: null }, 'connect'],
      [{ device: deviceFacts({ lock: 'locked', approval: 'not-asked' }) }, 'connect'],
      [{}, 'backup'],
      [{ running: ['backup'] }, 'backup'],
      [{ backup }, 'prove'],
      [{ backup: { ...backup, provenAt: new Date(0) } }, 'restore'],
      [
        {
          backup: { ...backup, provenAt: new Date(0) },
          restored: { items: 3, targetName: 'Arc 8' },
        },
        undefined,
      ],
      // What was done is asked for again when the device has changed since.
      [
        {
          device: deviceFacts({ contentRevision: 'revision-2' }),
          backup: { ...backup, provenAt: new Date(0) },
          restored: { items: 3, targetName: 'Arc 8' },
        },
        'backup',
      ],
    ];
    for (const [change, step] of walk) {
      expect(currentStep(runSheet({ ...start, ...change }))?.id).toBe(step);
    }
  });

  test('takes no backup that was not agreed to', () => {
    expect(states({ ...start, agreedBackup: false })).toMatchObject({
      agree: 'blocked',
      backup: 'blocked',
    });
  });

  test('says so when the device changed after its backup', () => {
    const changed = { ...start, backup, device: deviceFacts({ contentRevision: 'revision-2' }) };
    expect(runSheet(changed).find((s) => s.id === 'backup')?.sentence).toMatch(/changed since/);
  });

  test('a failed proof blocks, and a safety copy is not restored', () => {
    expect(states({ ...start, backup: { ...backup, proofFailed: true } }).prove).toBe('blocked');
    expect(states({ ...start, reason: 'safety-copy' }).restore).toBe('skipped');
  });

  test('never offers a restore before a proof, whatever else is so', () => {
    const facts = fc.record({
      reason: fc.constantFrom('repair' as const, 'replacement' as const, 'safety-copy' as const),
      agreedBackup: fc.boolean(),
      customerName: fc.constant('A'),
      deviceSerial: fc.constant('VA7K0000TEST'),
      device: fc.constantFrom(null, deviceFacts(), deviceFacts({ lock: 'locked' })),
      running: fc.subarray(['backup', 'prove', 'erase'] as const),
      backup: fc.constantFrom(null, backup, { ...backup, proofFailed: true }),
      restored: fc.constant(null),
    });
    fc.assert(
      fc.property(facts, (f) => {
        expect(['waiting', 'skipped']).toContain(states(f).restore);
      }),
    );
  });
});

test('an operation that is over stays as it is, whatever comes after', () => {
  for (const state of operationStates) {
    for (const event of ['finish', 'fail', 'stop', 'lose'] as const) {
      expect(afterOperationEvent(state, event) === null).toBe(isOver(state));
    }
  }
});

test.each(['', '1234', '0000000', '12345678901', 'short', 'aaaaaaaaaa'])(
  '“%s” is no password',
  (text) => {
    expect(passwordProblem(text)?.code).toBe('weak-password');
  },
);
test('four words are one', () => {
  expect(passwordProblem('brass kettle seven moths')).toBeNull();
});

test('every problem says what happened, what is safe and what to do, in whole sentences', () => {
  for (const { what, safe, next } of Object.values(problems)) {
    for (const sentence of [what, safe, next]) expect(sentence).toMatch(/^[A-Z].*\.$/);
  }
});

test('an unknown error becomes a problem without its own text, which may name customers’ files', () => {
  expect(JSON.stringify(problemOf(new Error('letters/to-marguerite.txt')))).not.toContain(
    'marguerite',
  );
  expect(problemOf(new Failure('rack-full')).code).toBe('rack-full');
});
