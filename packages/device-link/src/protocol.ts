import { dataClassIds, deviceFactsSchema, type DeviceFacts } from '@bright-cellar/core';
import { z } from 'zod';

/**
 * Device link, version 1: HTTP/1.1 between Bright Cellar and an adapter that speaks to real or
 * simulated devices. docs/device-link.md is the page to implement it from; these are its shapes.
 */
export const LINK_VERSION = 1;
export const LINK_PREFIX = '/link/v1';

/** At least this often a line comes on the event stream; silence for three times as long is a failure. */
export const HEARTBEAT_MS = 5_000;
/** Entries in one page of a listing, at most. */
export const PAGE_ENTRIES = 1000;
/** Carries an entry's description beside its bytes: base64url of JSON, since names never stand in a URL. */
export const ENTRY_HEADER = 'link-entry';

/** What an adapter sends. Devices in it are judged one by one: what one says must not hide the others. */
export const sentEventSchema = z.discriminatedUnion('type', [
  /** First on every stream: all devices that are on the bench now. */
  z.object({
    type: z.literal('bench'),
    berths: z.int().min(1).max(64),
    /** Places on the shop network, numbered after the cables. */
    network: z.int().min(0).max(64),
    /** It takes storage that is mounted on its computer. */
    storage: z.boolean().default(false),
    devices: z.array(z.unknown()).max(128),
  }),
  z.object({ type: z.literal('arrived'), device: z.unknown() }),
  z.object({ type: z.literal('changed'), device: z.unknown() }),
  z.object({ type: z.literal('left'), id: z.string().max(64) }),
  z.object({ type: z.literal('heartbeat') }),
]);
export type SentEvent = z.input<typeof sentEventSchema>;

/** A device that says something of itself that cannot be so: it is shown, and nothing is done with it. */
export interface OddDevice {
  id: string;
  /** Where it is; null where even that cannot be understood. */
  berth: number | null;
  /** Which of its facts cannot be so. */
  facts: string[];
}

/** What happens on the bench, as the client tells it. */
export type LinkEvent =
  | {
      type: 'bench';
      berths: number;
      network: number;
      storage: boolean;
      devices: DeviceFacts[];
      odd: OddDevice[];
    }
  | { type: 'arrived' | 'changed'; device: DeviceFacts }
  | { type: 'odd'; device: OddDevice }
  | { type: 'left'; id: string }
  | { type: 'heartbeat' };

const oddSchema = z.object({
  id: z.string().regex(/^[A-Za-z0-9_-]{1,64}$/),
  berth: z.int().min(1).max(128).nullable().catch(null),
});

/** What a device says of itself, as far as it can be so; null where it does not even say which it is. */
export function judgeDevice(said: unknown): DeviceFacts | OddDevice | null {
  const facts = deviceFactsSchema.safeParse(said);
  if (facts.success) return facts.data;
  const odd = oddSchema.safeParse(said);
  if (!odd.success) return null;
  const names = facts.error.issues.map(({ path }) => String(path[0] ?? ''));
  return { ...odd.data, facts: [...new Set(names)].slice(0, 8) };
}

export const isOdd = (device: DeviceFacts | OddDevice): device is OddDevice => 'facts' in device;

/** What a device holds, as it is at the moment of asking: found out anew, not remembered. */
export const revisionSchema = z.object({ contentRevision: z.string().min(1).max(64) });

export const entrySchema = z.object({
  /** Opaque; stands for the entry in URLs. Stable while the listing's revision is. */
  id: z.string().regex(/^[A-Za-z0-9_-]{1,64}$/),
  class: z.enum(dataClassIds),
  /** The application, thread, database or album it belongs to; empty where it belongs to none. */
  group: z.string().max(120),
  kind: z.enum(['file', 'folder', 'link']),
  /** Unique on the device, `/` between its parts, never starting with one. */
  path: z.string().min(1).max(8192),
  bytes: z.int().min(0),
  /** UTC. */
  modified: z.iso.datetime(),
  /** POSIX permission bits; null where the device has none. */
  mode: z.int().min(0).max(0o7777).nullable(),
  /** What its contents are, as a media type (RFC 6838) without parameters; null where the device does not say. */
  format: z
    .string()
    .regex(/^[a-z0-9][a-z0-9!#$&^_.+-]{0,60}\/[a-z0-9][a-z0-9!#$&^_.+-]{0,60}$/)
    .nullable()
    .default(null),
  /** Changes with the entry's contents; sent back as `If-Match` so that a read never mixes two states. */
  revision: z.string().regex(/^[A-Za-z0-9._-]{1,64}$/),
});
export type Entry = z.infer<typeof entrySchema>;

export const entryPageSchema = z.object({
  entries: z.array(entrySchema).max(PAGE_ENTRIES),
  /** Give it back to get what follows; null on the last page. */
  next: z.string().max(256).nullable(),
});

/** What entries of one class belong to, with a name for people. */
export const groupSchema = z.object({
  class: z.enum(dataClassIds),
  id: z.string().min(1).max(120),
  name: z.string().max(300),
  kind: z.enum(['application', 'thread', 'database', 'album']),
  items: z.int().min(0),
  bytes: z.int().min(0),
  /** A chat application's own store that its number was not confirmed for: its entries cannot be read. */
  sealed: z.boolean(),
  /** Whether the application store still offers it; null where that is no question. */
  offered: z.boolean().nullable(),
  /** Of an application; null where the device does not say. */
  version: z.string().max(40).nullable().default(null),
});
export type Group = z.infer<typeof groupSchema>;
export const groupsSchema = z.object({ groups: z.array(groupSchema).max(50_000) });

/** Whether a backup runs now, or waits for the owner's word on the device. */
export const backupStateSchema = z.object({ state: z.enum(['running', 'asking']) });

/** What is written to a device: an entry without what only a reading device knows. */
export const newEntrySchema = entrySchema.omit({
  id: true,
  revision: true,
  group: true,
  format: true,
});
export type NewEntry = z.infer<typeof newEntrySchema>;

/** What a restore takes back of what it sent. */
export const droppedEntrySchema = newEntrySchema.pick({ path: true });

export const restoreOfferSchema = z.object({
  /** The device to be written, by its serial: a second check that it is the right one. */
  serial: z.string(),
  family: z.string(),
  osVersion: z.string(),
  items: z.int().min(0),
  bytes: z.int().min(0),
});
export type RestoreOffer = z.infer<typeof restoreOfferSchema>;

/** What the shop decided of its bench. */
export const arrangementSchema = z.object({
  /** How many berths there are for mounted storage; an adapter with cables has as many as those. */
  berths: z.int().min(1).max(64),
  /** Folders in which storage appears when it is mounted; what lies elsewhere is not taken. */
  places: z.array(z.string().max(4096)).max(64),
});
export type Arrangement = z.infer<typeof arrangementSchema>;

export const restoreStateSchema = z.object({ id: z.string() });
export const receivedSchema = z.object({
  /** Bytes of this entry that the device has safely; send the rest from here. */
  received: z.int().min(0),
});

export const linkErrorCodes = [
  'not-authorised',
  'not-valid',
  'no-such-device',
  'no-such-entry',
  'locked',
  'not-approved',
  'port-off',
  'sealed',
  'busy',
  'in-use',
  'exists',
  'wrong-serial',
  'wrong-family',
  'owner-locked',
  'os-too-old',
  'device-full',
  'read-error',
  'changed',
  'left',
  'not-capable',
] as const;
export type LinkErrorCode = (typeof linkErrorCodes)[number];

export const linkErrorSchema = z.object({ error: z.enum(linkErrorCodes) });

/** Entries of at most so many bytes are given out one after the other with one answer, at most so many of them. */
export const SMALL_BYTES = 32 * 2 ** 10;
export const SMALL_ENTRIES = 64;
export const smallAskedSchema = z.object({
  entries: z
    .array(entrySchema.pick({ id: true, revision: true }))
    .min(1)
    .max(SMALL_ENTRIES),
});
/** Stands before each of them as a line: how many bytes follow, and of which revision; or why none do. */
export const smallHeadSchema = z.union([
  z.object({ bytes: z.int().min(0).max(SMALL_BYTES), revision: entrySchema.shape.revision }),
  linkErrorSchema,
]);
export type SmallHead = z.infer<typeof smallHeadSchema>;

/** The HTTP status of each refusal. */
export const linkStatus: Record<LinkErrorCode, number> = {
  'not-authorised': 401,
  'not-valid': 400,
  'no-such-device': 404,
  'no-such-entry': 404,
  locked: 423,
  'not-approved': 423,
  'port-off': 423,
  sealed: 423,
  busy: 409,
  'in-use': 409,
  exists: 409,
  'wrong-serial': 409,
  'wrong-family': 409,
  'owner-locked': 409,
  'os-too-old': 409,
  'device-full': 507,
  'read-error': 500,
  changed: 412,
  left: 410,
  'not-capable': 501,
};

/** A refusal by the device, or a link that gave no answer (`no-answer`). */
export class LinkError extends Error {
  readonly code: LinkErrorCode | 'no-answer';

  constructor(code: LinkErrorCode | 'no-answer', options?: ErrorOptions) {
    super(`device link: ${code}`, options);
    this.name = 'LinkError';
    this.code = code;
  }
}
