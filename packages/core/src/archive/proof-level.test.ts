import { describe, expect, test } from 'vitest';
import { knownOfBackup, standingDamage, type ProofLevel } from './proof-level.js';

const look = (level: ProofLevel, outcome: 'whole' | 'damaged') => ({ level, outcome });

test('damage stands until a look that could see it finds it gone', () => {
  const damage = look('bytes', 'damaged');
  const before = [damage, look('full', 'whole')];
  expect(standingDamage([])).toBeNull();
  expect(standingDamage([look('structure', 'whole')])).toBeNull();
  expect(standingDamage(before)).toBe(damage);
  expect(standingDamage([look('structure', 'whole'), look('sample', 'whole'), ...before])).toBe(
    damage,
  );
  expect(standingDamage([look('bytes', 'whole'), ...before])).toBeNull();
  expect(standingDamage([look('structure', 'whole'), look('full', 'whole'), ...before])).toBeNull();
  const again = look('structure', 'damaged');
  expect(standingDamage([again, look('full', 'whole'), ...before])).toBe(again);
});

describe('what is known of a backup', () => {
  let minute = 0;
  /** Later than any before it. */
  const at = (copyId: string, level: ProofLevel, outcome: 'whole' | 'damaged', current = true) => ({
    ...look(level, outcome),
    ...{ copyId, current, gone: false, at: `10:${String((minute += 1)).padStart(2, '0')}` },
  });

  test('is what a full reading found, in a copy that is as it was then', () => {
    expect(knownOfBackup([])).toEqual({ provenAt: null, damaged: false });
    const full = at('alder', 'full', 'whole');
    expect(knownOfBackup([full])).toEqual({ provenAt: full.at, damaged: false });
    const closer = at('alder', 'bytes', 'whole');
    expect(knownOfBackup([closer, full]).provenAt).toBe(full.at);
    expect(knownOfBackup([closer]).provenAt).toBeNull();
    expect(knownOfBackup([{ ...full, current: false }]).provenAt).toBeNull();
  });

  test('damage of a copy takes its own proof, and no other’s', () => {
    const alder = at('alder', 'full', 'whole');
    const birch = at('birch', 'full', 'whole');
    const damaged = at('birch', 'bytes', 'damaged');
    expect(knownOfBackup([damaged, birch])).toEqual({ provenAt: null, damaged: true });
    expect(knownOfBackup([damaged, birch, alder])).toEqual({ provenAt: alder.at, damaged: true });
    expect(knownOfBackup([birch, alder]).provenAt).toBe(birch.at);
    const again = at('birch', 'full', 'whole');
    expect(knownOfBackup([again, damaged, birch, alder])).toEqual({
      ...{ provenAt: again.at, damaged: false },
    });
  });

  test('what was found of a copy that is gone says nothing any more', () => {
    const proven = { ...at('alder', 'full', 'whole'), gone: true };
    const damaged = { ...at('birch', 'bytes', 'damaged'), gone: true };
    expect(knownOfBackup([damaged, proven])).toEqual({ provenAt: null, damaged: false });
  });

  test('one copy found whole says nothing of another that was found damaged', () => {
    const damaged = at('birch', 'bytes', 'damaged');
    const alder = at('alder', 'full', 'whole');
    expect(knownOfBackup([alder, damaged]).damaged).toBe(true);
  });
});
