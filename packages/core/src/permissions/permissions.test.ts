import { expect, test } from 'vitest';
import { alwaysAllowed, builtInRole, builtInRoles, permissionIds, whoMay } from './index.js';

const may = (id: Parameters<typeof builtInRole>[0], permission: (typeof permissionIds)[number]) =>
  builtInRole(id).permissions.includes(permission);

test('a keeper may do everything; who learns takes nothing away, and nobody else says who works here', () => {
  expect(permissionIds.every((permission) => may('keeper', permission))).toBe(true);
  for (const permission of ['erase', 'dispose', 'prune', 'restore', 'take-out', 'move'] as const) {
    expect(may('trainee', permission), permission).toBe(false);
    expect(may('technician', permission), permission).toBe(true);
  }
  for (const permission of ['people', 'audit', 'house-rules', 'escrow'] as const) {
    expect(may('technician', permission), permission).toBe(false);
  }
  for (const { permissions } of builtInRoles)
    expect(permissions).toEqual(expect.arrayContaining([...alwaysAllowed]));
});

test('who may, in words; a role of the shop’s own among them', () => {
  expect(whoMay('people', builtInRoles)).toBe('keepers');
  expect(whoMay('erase', builtInRoles)).toBe('keepers and technicians');
  const archivist = { id: 'x', name: 'Archivist', permissions: ['see', 'people'] as const };
  expect(whoMay('people', [...builtInRoles, archivist])).toBe('keepers and archivists');
  expect(whoMay('see', builtInRoles)).toBe('keepers, technicians and trainees');
});
