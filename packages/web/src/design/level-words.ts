import type { ProofLevel } from '@bright-cellar/core';

/** How closely an archive can be looked at, with what each costs. */
export const levelChoices: Readonly<Record<ProofLevel, string>> = {
  full: 'Everything, every item read back',
  bytes: 'Every stored byte, no password',
  sample: 'A sample of items read back',
  structure: 'Structure only',
};

export const levelCosts: Readonly<Record<ProofLevel, string>> = {
  full: 'About a minute for each 12 GB. Only this makes it safe to erase a device.',
  bytes: 'About a minute for each 30 GB. Finds any damage, but does not try the password.',
  sample: 'Under a minute. Tries the password, and reads a few hundred items.',
  structure: 'A few seconds. Finds what is missing or cut short.',
};

export const levelNames: Readonly<Record<ProofLevel, string>> = {
  full: 'Full reading',
  bytes: 'Stored bytes',
  sample: 'Sample',
  structure: 'Structure',
};
