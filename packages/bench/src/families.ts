import type { Capabilities, SettlingId } from '@bright-cellar/core';
import { marlTakes, quillonTakes, vireoTakes } from './family-takes.js';

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
  /** What it asks of its owner after a backup came onto it. */
  settling: readonly SettlingId[];
  screens: {
    locked: string;
    portOff: string;
    approve: string;
    confirm: string;
    owner: string;
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
      takes: vireoTakes,
    },
    osBytes: 9_400_000_000,
    cableShare: 1,
    openingSteps: null,
    sealedStores: {},
    databases: false,
    settling: ['passcode', 'account', 'code', 'wifi', 'places', 'applications'],
    screens: {
      locked: 'Locked. Passcode?',
      portOff: '',
      approve: 'A bench asks to read this device. Approve with your passcode?',
      confirm: 'A backup wants to start. Confirm with your passcode?',
      owner: 'I still have an owner. Let them type their password.',
      home: 'Home screen.',
      welcome: 'New, and nobody’s. Press the rim to begin.',
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
      takes: marlTakes,
    },
    osBytes: 12_800_000_000,
    cableShare: 1.4,
    openingSteps: [
      'Open the settings and leaf to their last page, “Ledger”.',
      'Write the word “workshop” into the line at its foot, and press the hook beside it.',
      'A page “Workshop” lies above it now: open it, and switch on “Port for computers”.',
      'Say “Yes” when it asks whether computers may reach in.',
    ],
    sealedStores: CHATS,
    databases: false,
    settling: ['passcode', 'account', 'wifi', 'applications'],
    screens: {
      locked: 'Shut. The passcode opens me.',
      portOff: 'Fed by this cable. The port for computers is shut.',
      approve: 'Let this bench in? Confirm with your passcode.',
      confirm: '',
      owner: 'Somebody lived here before. Their password, please.',
      home: 'Home screen, with a note: the workshop port is on.',
      welcome: 'Nobody lives here yet. Whose hands am I in?',
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
      takes: quillonTakes,
    },
    osBytes: 6_000_000,
    cableShare: 0.03,
    openingSteps: null,
    sealedStores: {},
    databases: true,
    settling: [],
    screens: {
      locked: 'SHUT. CODE?',
      portOff: '',
      approve: '',
      confirm: '',
      owner: 'OWNER CODE?',
      home: '12:04  Desk  People',
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
