import { z } from 'zod';
import { failedItemsSchema } from '../backup/index.js';
import type { Permission } from '../permissions/index.js';
import {
  byteCountSchema,
  itemCountSchema,
  type LinkDeviceId,
  type ArchiveId,
  type BackupId,
} from '../values/index.js';

/**
 * Something that work needs while it runs. Any number may share one, and beside them one may update it, which takes nothing
 * away; nobody works on what somebody holds exclusively.
 */
export interface Lock {
  /** `device:<serial>`, `archive:<id>`, `copy:<archive’s id>:<rack’s id>`, or that a move plan is carried out. */
  resource: `device:${string}` | `archive:${string}` | `copy:${string}` | 'moves';
  mode: 'shared' | 'update' | 'exclusive';
}
export const deviceLock = (serial: string): Lock => ({
  resource: `device:${serial}`,
  mode: 'exclusive',
});
export const archiveLock = (id: string, mode: Lock['mode']): Lock => ({
  resource: `archive:${id}`,
  mode,
});

/** An archive as it is, or will be, on one rack. */
export const copyLock = (archive: string, rack: string): Lock => ({
  resource: `copy:${archive}:${rack}`,
  mode: 'exclusive',
});

/** With which others a lock may be held. */
const beside: Record<Lock['mode'], readonly Lock['mode'][]> = {
  shared: ['shared', 'update'],
  update: ['shared'],
  exclusive: [],
};

/** Whether two pieces of work may not run beside each other with these. */
export const excludes = (a: Lock, b: Lock): boolean =>
  a.resource === b.resource && !beside[a.mode].includes(b.mode);

/** Whether work of a kind has to do with a thing of some sort. */
export type Refers = 'always' | 'sometimes' | 'never';
type Reference<R extends Refers, Id> = R extends 'always'
  ? Id
  : R extends 'never'
    ? null
    : Id | null;
export interface About {
  device: Refers;
  archive: Refers;
  backup: Refers;
}
/** What a piece of work has to do with, by its ids. The device is on the bench while it runs. */
export interface References<A extends About> {
  deviceId: Reference<A['device'], LinkDeviceId>;
  archiveId: Reference<A['archive'], ArchiveId>;
  backupId: Reference<A['backup'], BackupId>;
}

/** How work that ended badly goes on, and what is said of what is left of it. */
export interface Continues {
  needsPassword: boolean;
  /** After an amount: “12 GB …”. */
  left: string;
  /** Of the button that ends it there. */
  giveUp: string;
}

/** What is said of work of this kind that did not come to its end: what is safe, and what to do. */
export interface CutWords {
  safe?: string;
  next?: string;
}

/**
 * Everything that is said once of a kind of long work. Whatever shows, starts, does or ends work asks here; nothing else
 * tests for kinds.
 */
export interface OperationDefinition<
  Kind extends string = string,
  Params extends z.ZodType = z.ZodType,
  Body extends z.ZodType = z.ZodType,
  Input extends z.ZodObject = z.ZodObject,
  Result extends z.ZodObject = z.ZodObject,
  Phases extends Record<string, string> = Record<string, string>,
  Refs extends About = About,
> {
  kind: Kind;
  /** As a heading: “Backup”. */
  name: string;
  /** What a screen asks for, and where. */
  start: { path: string; summary: string; params: Params; body: Body };
  permission: Permission;
  /** Whether its start tries a password: such tries are few. */
  triesPassword: boolean;
  about: Refs;
  /** What its row keeps; never a password, never a path. Counted up when its shape changes, with a migration. */
  version: number;
  input: Input;
  /** How it ends well. */
  result: Result;
  /** In their order, with the words that screens use. */
  phases: Phases;
  firstPhase: keyof Phases & string;
  /** What of it is not interrupted on anybody’s wish. `all`: once begun, it ends by itself. */
  unstoppable: readonly (keyof Phases & string)[] | 'all';
  /** During which of its phases a person may let it wait. */
  pausable: readonly (keyof Phases & string)[];
  /** How it goes on from what it left behind, where it can. */
  continues: Continues | null;
  /** The device is away for a while, and expected back. */
  leavesBench: boolean;
  /** Whether it stands still while other work reads or writes a device: a customer waits for that. */
  givesWay: boolean;
  ifCut: CutWords;
  ifStopped: CutWords;
}

/** How any work ends well. */
const outcomeShape = {
  items: itemCountSchema,
  bytes: byteCountSchema,
  failed: z.array(failedItemsSchema),
  durationMs: z.int(),
};
/** A kind's result: how any work ends well, and what is more to say of this one. */
export const outcome = <const More extends z.ZodRawShape>(more: More) =>
  z.object({ ...outcomeShape, ...more });

export function defineOperation<
  const Kind extends string,
  Params extends z.ZodType,
  Body extends z.ZodType,
  Input extends z.ZodObject,
  Result extends z.ZodObject<typeof outcomeShape & z.ZodRawShape>,
  const Phases extends Record<string, string>,
  const Refs extends About,
>(
  definition: OperationDefinition<Kind, Params, Body, Input, Result, Phases, Refs>,
): OperationDefinition<Kind, Params, Body, Input, Result, Phases, Refs> {
  return definition;
}
