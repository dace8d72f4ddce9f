import fc from 'fast-check';
import { expect, test } from 'vitest';
import { proposedBackup, troublesOf, type BackupToChoose } from './restorable.js';

const one = (day: number, more: Partial<BackupToChoose> = {}): BackupToChoose => ({
  id: `00000000-0000-4000-8000-0000000000${String(day).padStart(2, '0')}`,
  takenAt: `2026-11-${String(day).padStart(2, '0')}T10:00:00.000Z`,
  ...{ everything: true, provenAt: '2026-11-28T10:00:00.000Z', damaged: false, isHere: true },
  ...more,
});
const told = (...all: BackupToChoose[]) => {
  const { id, passedOver } = proposedBackup(all);
  return [id && Number(id.slice(-2)), passedOver.map(({ trouble }) => trouble)];
};

test('the newest is proposed, whatever order they come in', () => {
  expect(told(one(3), one(9), one(5))).toEqual([9, []]);
});

test('one that is a part, not proven, damaged or away is passed over, and why', () => {
  const troubled = [
    one(9, { damaged: true, provenAt: null }),
    one(8, { everything: false, isHere: false }),
    one(7, { provenAt: null }),
    one(6, { isHere: false }),
  ];
  expect(told(...troubled, one(5), one(4, { damaged: true }))).toEqual([
    5,
    ['damaged', 'part', 'unproven', 'away'],
  ]);
  expect(told(...troubled)).toEqual([null, ['damaged', 'part', 'unproven', 'away']]);
  expect(told()).toEqual([null, []]);
});

test('what is proposed has nothing against it, and nothing newer has nothing against it', () => {
  const some = fc.uniqueArray(
    fc.record({
      day: fc.integer({ min: 1, max: 30 }),
      everything: fc.boolean(),
      proven: fc.boolean(),
      damaged: fc.boolean(),
      isHere: fc.boolean(),
    }),
    { selector: ({ day }) => day },
  );
  fc.assert(
    fc.property(some, (days) => {
      const all = days.map(({ day, proven, ...more }) =>
        one(day, { ...more, ...(proven ? {} : { provenAt: null }) }),
      );
      const { id } = proposedBackup(all);
      const proposed = all.find((backup) => backup.id === id);
      const good = all.filter((backup) => troublesOf(backup).length === 0);
      expect(proposed?.takenAt).toBe(
        good
          .map(({ takenAt }) => takenAt)
          .sort()
          .at(-1),
      );
    }),
  );
});
