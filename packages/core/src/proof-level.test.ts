import { expect, test } from 'vitest';
import { standingDamage, type ProofLevel } from './proof-level.js';

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
