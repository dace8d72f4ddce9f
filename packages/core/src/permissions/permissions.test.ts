import { expect, test } from 'vitest';
import { mayDo, permissionIds, whoMay } from './index.js';

test('a keeper may do everything; who learns takes nothing away, and nobody else says who works here', () => {
  expect(permissionIds.every((permission) => mayDo('keeper', permission))).toBe(true);
  for (const permission of ['erase', 'dispose', 'prune', 'restore', 'take-out', 'move'] as const) {
    expect(mayDo('trainee', permission), permission).toBe(false);
    expect(mayDo('technician', permission), permission).toBe(true);
  }
  for (const permission of ['people', 'house-rules', 'escrow'] as const) {
    expect(mayDo('technician', permission), permission).toBe(false);
  }
});

test('who may, in words', () => {
  expect(whoMay('people')).toBe('keepers');
  expect(whoMay('erase')).toBe('keepers and technicians');
  expect(whoMay('see')).toBe('keepers, technicians and trainees');
});
