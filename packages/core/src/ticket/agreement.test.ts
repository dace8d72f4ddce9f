import fc from 'fast-check';
import { expect, test } from 'vitest';
import { agreedFrom, agreementKinds } from './agreement.js';

test('nothing said is nothing agreed', () => {
  expect(agreedFrom([])).toEqual({ backup: false, lookIn: false, escrow: false, keepDays: 0 });
});

test('days count only where keeping was agreed', () => {
  expect(agreedFrom([{ kind: 'keep', given: true, days: 30 }]).keepDays).toBe(30);
  expect(agreedFrom([{ kind: 'keep', given: false, days: 30 }]).keepDays).toBe(0);
  expect(agreedFrom([{ kind: 'keep', given: true, days: null }]).keepDays).toBe(0);
});

test('of each kind the last word counts, whatever was said about the others in between', () => {
  const word = fc.record({
    kind: fc.constantFrom(...agreementKinds),
    given: fc.boolean(),
    days: fc.option(fc.nat(365), { nil: null }),
  });
  fc.assert(
    fc.property(fc.array(word, { maxLength: 20 }), word, (said, last) => {
      const agreed = agreedFrom([...said, last]);
      const before = agreedFrom(said);
      expect(
        { backup: agreed.backup, 'look-in': agreed.lookIn, escrow: agreed.escrow, keep: true }[
          last.kind
        ],
      ).toBe(last.kind === 'keep' ? true : last.given);
      if (last.kind === 'keep') expect(agreed.keepDays).toBe(last.given ? (last.days ?? 0) : 0);
      else expect(agreed.keepDays).toBe(before.keepDays);
      if (last.kind !== 'escrow') expect(agreed.escrow).toBe(before.escrow);
    }),
  );
});
