import type { Capabilities } from '@bright-cellar/core';

/** What each made-up family can do, and the words its own screens use. Data, so that no code asks for a family by name. */
export interface Family {
  name: string;
  osName: string;
  capabilities: Capabilities;
  /** Bytes that the OS takes on an empty device. */
  osBytes: number;
  /** How quick its cable is beside the bench's usual one. */
  cableShare: number;
  /** How the workshop port is switched on; null where there is none. */
  openingSteps: string[] | null;
  /** Applications of it that keep a sealed store. */
  sealedStores: Record<string, string>;
  /** Groups of all classes are record databases. */
  databases: boolean;
  screens: {
    locked: string;
    portOff: string;
    approve: string;
    confirm: string;
    home: string;
    welcome: string;
    backup: string;
    restore: string;
    installing: string;
    erasing: string;
    updating: string;
  };
}

const CHATS = { tansy: 'Tansy', corbel: 'Corbel' };

export const families: Record<string, Family> = {
  vireo: {
    name: 'Vireo',
    osName: 'Vireo OS',
    capabilities: {
      backup: 'service',
      choose: 'groups',
      sensitiveOnlyEncrypted: true,
      confirmsBackup: true,
      restore: 'full',
      erase: true,
      approval: true,
    },
    osBytes: 9_400_000_000,
    cableShare: 1,
    openingSteps: null,
    sealedStores: {},
    databases: false,
    screens: {
      locked: 'Locked. Passcode?',
      portOff: '',
      approve: 'A bench asks to read this device. Approve with your passcode?',
      confirm: 'A backup wants to start. Confirm with your passcode?',
      home: 'Home screen.',
      welcome: 'Good day. Swipe up to set me up.',
      backup: 'A backup is being taken. Leave me on the cable.',
      restore: 'Receiving a backup. Leave me on the cable.',
      installing: 'Installing what was received. I will restart.',
      erasing: 'Erasing everything.',
      updating: 'Updating. I will restart.',
    },
  },
  marl: {
    name: 'Marl',
    osName: 'Marl',
    capabilities: {
      backup: 'files',
      choose: 'items',
      sensitiveOnlyEncrypted: false,
      confirmsBackup: false,
      restore: 'full',
      erase: true,
      approval: true,
    },
    osBytes: 12_800_000_000,
    cableShare: 1.4,
    openingSteps: [
      'Open Settings, then “About this Marl”.',
      'Tap “Build number” seven times, until it says that the workshop is open.',
      'Go back once, open “Workshop”, and switch on “Port for computers”.',
      'Say “Yes” when it asks whether computers may reach in.',
    ],
    sealedStores: CHATS,
    databases: false,
    screens: {
      locked: 'Locked. Draw pattern or type passcode.',
      portOff: 'Charging only. Computers cannot reach in.',
      approve: 'Let this bench in? Confirm with your passcode.',
      confirm: '',
      home: 'Home screen, with a note: the workshop port is on.',
      welcome: 'Hello. Choose a language.',
      backup: 'A computer is reading. Do not unplug.',
      restore: 'A computer is writing. Do not unplug.',
      installing: 'Setting up what was received.',
      erasing: 'Resetting.',
      updating: 'Installing the update.',
    },
  },
  quillon: {
    name: 'Quillon',
    osName: 'Quillon ROM',
    capabilities: {
      backup: 'databases',
      choose: 'groups',
      sensitiveOnlyEncrypted: false,
      confirmsBackup: false,
      restore: 'full',
      erase: true,
      approval: false,
    },
    osBytes: 6_000_000,
    cableShare: 0.03,
    openingSteps: null,
    sealedStores: {},
    databases: true,
    screens: {
      locked: 'KEYS LOCKED. Code:',
      portOff: '',
      approve: '',
      confirm: '',
      home: '12:04  Menu  Names',
      welcome: 'Set date and time.',
      backup: 'PC CONNECTION: reading databases',
      restore: 'PC CONNECTION: writing databases',
      installing: 'Please wait …',
      erasing: 'Formatting user memory',
      updating: 'Please wait …',
    },
  },
};

export function familyOf(id: string): Family {
  const family = families[id];
  if (!family) throw new RangeError(`no such family: ${id}`);
  return family;
}
