import type { Capabilities } from '@bright-cellar/core';

/** What each made-up family can do, and the words its own screens use. Data, so that no code asks for a family by name. */
export interface Family {
  name: string;
  osName: string;
  capabilities: Capabilities;
  /** Bytes that the OS takes on an empty device. */
  osBytes: number;
  screens: {
    locked: string;
    approve: string;
    home: string;
    welcome: string;
    backup: string;
    restore: string;
    installing: string;
    erasing: string;
  };
}

export const families: Record<string, Family> = {
  vireo: {
    name: 'Vireo',
    osName: 'Vireo OS',
    capabilities: { backup: 'full', restore: 'full', erase: true, approval: true },
    osBytes: 9_400_000_000,
    screens: {
      locked: 'Locked. Passcode?',
      approve: 'A bench asks to read this device. Approve with your passcode?',
      home: 'Home screen.',
      welcome: 'Good day. Swipe up to set me up.',
      backup: 'A backup is being taken. Leave me on the cable.',
      restore: 'Receiving a backup. Leave me on the cable.',
      installing: 'Installing what was received. I will restart.',
      erasing: 'Erasing everything.',
    },
  },
};

export function familyOf(id: string): Family {
  const family = families[id];
  if (!family) throw new RangeError(`no such family: ${id}`);
  return family;
}
