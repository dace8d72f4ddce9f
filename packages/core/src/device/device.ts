import { z } from 'zod';
import { dataClassIds } from './classes.js';
import { settlingIds, settlingStepSchema } from './settling.js';
import { takesSchema } from './takes.js';
import { linkDeviceSchema } from '../values/index.js';

/** How much of one class a device or a backup holds. */
export const classAmountSchema = z.object({
  class: z.enum(dataClassIds),
  items: z.int().min(0),
  /** Bytes of contents, before any encryption or packing. */
  bytes: z.int().min(0),
});
export type ClassAmount = z.infer<typeof classAmountSchema>;

/** What a family can do over the link. Families differ by these, not by code that knows their names. */
export const capabilitiesSchema = z.object({
  /**
   * How it gives its contents out. `service`: through its own backup service, which asks its owner
   * first; `files`: class by class and file by file; `databases`: as named record databases; `storage`: only the
   * files of its storage, which is mounted; `recovered`: a folder that somebody recovered from it; `none`.
   */
  backup: z.enum(['service', 'files', 'databases', 'storage', 'recovered', 'none']),
  /** The finest thing that can be chosen: whole groups (an application, a database), or single items. */
  choose: z.enum(['groups', 'items']),
  /** Its service leaves sensitive classes out of a backup that is not encrypted. */
  sensitiveOnlyEncrypted: z.boolean(),
  /** The owner confirms on the device, with its passcode, that a backup starts. */
  confirmsBackup: z.boolean(),
  /** `full`: takes a whole backup, in two passes, when empty. `none`: cannot be written. */
  restore: z.enum(['full', 'none']),
  /** The device can be told over the link to erase itself. */
  erase: z.boolean(),
  /** The device asks its owner to approve a bench before it is read. */
  approval: z.boolean(),
  /** What it takes from other families, and beside what is on it; null: nothing but a whole backup of its own family. */
  takes: takesSchema.nullable().default(null),
});
export type Capabilities = z.infer<typeof capabilitiesSchema>;

/** Words that a device shows its owner, or was given by them: at most so long, and nothing in them that is no letter. */
function spoken(most: number) {
  return z
    .string()
    .max(most)
    .regex(/^[^\p{Cc}\p{Cs}]*$/u);
}

/** A chat application's own store, which it opens only when its number was confirmed on the device. */
export const sealedStoreSchema = z.object({
  /** The group of class `applications` that it is. */
  group: z.string().max(120),
  name: spoken(120),
  confirmed: z.boolean(),
});
export type SealedStore = z.infer<typeof sealedStoreSchema>;

/** All that a device says of itself over the link. Every screen and every rule reads these. */
export const deviceFactsSchema = z.object({
  /** Opaque and stable for one physical device; safe in a URL. */
  id: linkDeviceSchema,
  /** Where it is, from 1: the cables first, then the places on the shop network. */
  berth: z.int().min(1).max(128),
  connection: z.enum(['cable', 'network']),
  family: z.string().min(1).max(40),
  familyName: spoken(60),
  kind: z.enum(['phone', 'tablet', 'handset']),
  model: spoken(60),
  name: spoken(120),
  serial: z.string().regex(/^[\x21-\x7e]{4,64}$/),
  imei: z.string().max(20).nullable(),
  osName: spoken(60),
  /** Dotted numbers, as `17.2.1`; empty where nothing says it. */
  osVersion: z
    .string()
    .max(30)
    .regex(/^(\d{1,6}(\.\d{1,6})*)?$/),
  /** Bytes the device can hold in all, and bytes in use (its OS included). */
  capacity: z.int().min(0),
  used: z.int().min(0),
  /** Null while the device does not let itself be read. */
  content: z.array(classAmountSchema).max(dataClassIds.length).nullable(),
  /** Changes whenever any content changes; null while the device does not let itself be read. */
  contentRevision: z.string().max(64).nullable(),
  /** Percent; null where nothing says it. */
  charge: z.int().min(0).max(100).nullable(),
  lock: z.enum(['locked', 'unlocked', 'no-passcode']),
  approval: z.enum(['approved', 'asking', 'not-asked']),
  /** Whether computers may reach into it; null where the family has no such setting. */
  workshopPort: z.enum(['on', 'off']).nullable(),
  /** How the workshop port is switched on, step by step, in the words of the device's own screens. */
  openingSteps: z.array(spoken(300)).max(20),
  /** The owner's word that a backup may start, where the family asks for it. */
  confirmation: z.enum(['none', 'asking', 'given']),
  /** A wearable that is paired with it, by name. */
  wearable: spoken(120).nullable(),
  sealedStores: z.array(sealedStoreSchema).max(100),
  /** An update that its OS offers; null when there is none. */
  osUpdate: z.object({ version: z.string().max(30), bytes: z.int().min(0) }).nullable(),
  /** `asking`: it lets nobody do anything with it until its owner has typed their password, also where it said `off` before. */
  ownerLock: z.enum(['on', 'off', 'asking']),
  /** At its welcome screen with nothing of anybody's on it. */
  empty: z.boolean(),
  /** What it asks of its owner since a backup came onto it; empty where it asks for nothing. */
  settling: z.array(settlingStepSchema).max(settlingIds.length).default([]),
  activity: z.enum(['idle', 'backup', 'restore', 'installing', 'erasing', 'updating']),
  /** What its own screen shows now, in one sentence. */
  screen: spoken(300),
  capabilities: capabilitiesSchema,
});
export type DeviceFacts = z.infer<typeof deviceFactsSchema>;

/** A folder of this computer that is put on the bench as a device, and what whoever holds that says of it. */
export const mountedFolderSchema = z.object({
  /** Absolute; below one of the places in which storage appears when it is mounted. */
  folder: z.string().min(1).max(4096),
  /** The storage of a device as it is; or what somebody recovered from one. */
  of: z.enum(['device', 'recovered']),
  kind: deviceFactsSchema.shape.kind,
  name: deviceFactsSchema.shape.name,
  model: deviceFactsSchema.shape.model,
  /** Null where nobody can read it. */
  serial: deviceFactsSchema.shape.serial.nullable(),
});
export type MountedFolder = z.infer<typeof mountedFolderSchema>;

export function totalOf(amounts: readonly ClassAmount[]): { items: number; bytes: number } {
  return amounts.reduce(
    (sum, amount) => ({ items: sum.items + amount.items, bytes: sum.bytes + amount.bytes }),
    { items: 0, bytes: 0 },
  );
}

/** An OS version as it can be shown. */
export const osVersionRead = (osVersion: string): string => osVersion || 'not read';

/** Negative when `a` is older than `b`. Missing parts count as 0, so `17` equals `17.0`. */
export function compareOsVersions(a: string, b: string): number {
  const left = a.split('.').map(Number);
  const right = b.split('.').map(Number);
  for (let i = 0; i < Math.max(left.length, right.length); i++) {
    const difference = (left[i] ?? 0) - (right[i] ?? 0);
    if (difference !== 0) return difference;
  }
  return 0;
}

/** The last characters of a serial, which a technician types before anything dangerous. */
export const SERIAL_TAIL_LENGTH = 4;
export function serialTail(serial: string): string {
  return serial.slice(-SERIAL_TAIL_LENGTH);
}

const UNREAD = 'unread-';
/** Stands for the serial of a device on which nobody can read one: every device has one, and this is no other's. */
export const unreadSerial = (unique: string): string => UNREAD + unique;
/** A serial as it can be shown; null where nobody could read it. */
export const serialRead = (serial: string): string | null =>
  serial.startsWith(UNREAD) ? null : serial;
