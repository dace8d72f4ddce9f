import { describe, expect, test } from 'vitest';
import { judgePackage } from './application-package.js';
import { deviceFacts } from '../test-devices.js';

const from = (family: string) => ({ family, model: 'Fell 3', serial: 'X', osVersion: '1' });
const marl = deviceFacts({
  family: 'marl',
  familyName: 'Marl',
  capabilities: {
    ...deviceFacts().capabilities,
    takes: {
      adds: true,
      items: [],
      applications: [
        { id: 'crossword', crosses: true, version: '3.4' },
        { id: 'pocket-garden', crosses: false, version: '2.1' },
      ],
    },
  },
});
const judge = (id: string, family: string, applicationVersion: string | null = null) =>
  judgePackage({ id, applicationVersion, device: from(family) }, marl);

describe('a package, before it goes onto a device', () => {
  test('of the same family and version goes without a word', () => {
    expect(judge('crossword', 'marl', '3.4')).toEqual({ stays: null, says: [] });
  });

  test('says whether the store has a newer or an older one, or none', () => {
    expect(judge('crossword', 'marl', '3.10').says[0]).toMatch(/has 3\.4, which is older/);
    expect(judge('crossword', 'marl', '2.9').says[0]).toMatch(/has 3\.4, which is newer/);
    expect(judge('tide-table', 'marl', '0.7').says[0]).toMatch(/does not offer it any more/);
  });

  test('of another family goes only where its namesake takes that over', () => {
    expect(judge('crossword', 'vireo').says[0]).toMatch(/^It comes from another family/);
    expect(judge('pocket-garden', 'vireo').stays).toMatch(/does not take over/);
    expect(judge('tide-table', 'vireo').stays).toMatch(/store of Marl does not have it/);
  });

  test('goes onto no device that takes no single applications', () => {
    const none = { ...marl, capabilities: { ...marl.capabilities, takes: null } };
    const one = { id: 'crossword', applicationVersion: null, device: from('marl') };
    expect(judgePackage(one, none).stays).toMatch(/takes no single applications/);
  });
});
