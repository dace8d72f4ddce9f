import { join } from 'node:path';
import {
  linkDeviceSchema,
  settlingStepSchema,
  type DeviceFacts,
  type SealedStore,
  type SettlingStep,
} from '@bright-cellar/core';
import {
  indexFolder,
  isEmptyFolder,
  type DeviceNews,
  type FolderIndex,
} from '@bright-cellar/adapter';
import { LinkError } from '@bright-cellar/device-link';
import { z } from 'zod';
import { isWithdrawn } from './application-store.js';
import { familyOf } from './families.js';

/** What a stand-in is: fixed when it is made. */
export const definitionSchema = z.object({
  id: z.string(),
  family: z.string(),
  kind: z.enum(['phone', 'tablet', 'handset']),
  model: z.string(),
  name: z.string(),
  serial: z.string(),
  imei: z.string().nullable(),
  osVersion: z.string(),
  capacity: z.int(),
  passcode: z.string().nullable(),
  /** A folder of somebody's own that is shown as the contents. It is read, and filled by a restore, but never deleted. */
  folder: z.string().nullable(),
});
export type Definition = z.infer<typeof definitionSchema>;

/** What changes about it, and outlives a restart of the bench. */
export const conditionSchema = z.object({
  berth: z.int().nullable(),
  unlocked: z.boolean(),
  approved: z.boolean(),
  /** `unnoticed`: it says that it is off, until it was filled or erased; then it asks. */
  ownerLock: z.enum(['on', 'off', 'unnoticed', 'asking']),
  charge: z.int(),
  passcodeSet: z.boolean(),
  /** The folder whose files are its contents; null when it was erased. */
  contents: z.string().nullable(),
  connection: z.enum(['cable', 'network']).default('cable'),
  /** Only where the family has a workshop port. */
  workshopPort: z.enum(['on', 'off']).default('off'),
  wearable: z.string().nullable().default(null),
  /** Chat applications whose number was confirmed. */
  confirmedStores: z.array(z.string()).default([]),
  osUpdate: z.object({ version: z.string(), bytes: z.int() }).nullable().default(null),
  /** The OS it was updated to; null while it has the one it came with. */
  updatedTo: z.string().nullable().default(null),
  /** What it asks of its owner since a backup came onto it. */
  settling: z.array(settlingStepSchema).default([]),
  /** The berth to which it comes back by itself from what it does now. */
  returnsTo: z.int().nullable().default(null),
});
export type StandInCondition = z.infer<typeof conditionSchema>;
/** The same, with what is usual left out. */
export type GivenCondition = z.input<typeof conditionSchema>;

/** How a stand-in is at this moment, what follows from that, and what it tells of it. */
export class StandInState {
  readonly definition: Definition;
  condition: StandInCondition;
  activity: DeviceFacts['activity'] = 'idle';
  confirmation: DeviceFacts['confirmation'] = 'none';
  /** What was found of its contents; null where there are none. */
  index: FolderIndex | null = null;
  readonly home: string;
  readonly changed: (what: DeviceNews) => void;

  /** @param home a folder of its own for what is restored onto it. */
  constructor(
    definition: Definition,
    condition: StandInCondition,
    home: string,
    changed: (what: DeviceNews) => void,
  ) {
    this.definition = definition;
    this.condition = condition;
    this.home = home;
    this.changed = changed;
  }

  get readable(): boolean {
    return !this.locked && this.portOpen && this.approved && this.condition.ownerLock !== 'asking';
  }

  get portOpen(): boolean {
    return this.family.openingSteps === null || this.condition.workshopPort === 'on';
  }

  get approved(): boolean {
    return this.condition.approved || !this.family.capabilities.approval;
  }

  get osVersion(): string {
    return this.condition.updatedTo ?? this.definition.osVersion;
  }

  get family() {
    return familyOf(this.definition.family);
  }

  get locked(): boolean {
    return this.condition.passcodeSet && !this.condition.unlocked;
  }

  get empty(): boolean {
    return this.index === null || this.index.byId.size === 0;
  }

  /** Reads the contents. Call before anything else, and whenever the folder may have changed. */
  async rescan(): Promise<void> {
    const { contents } = this.condition;
    this.index = contents && !(await isEmptyFolder(contents)) ? await indexFolder(contents) : null;
  }

  facts(): DeviceFacts {
    const { definition, readable } = this;
    const family = this.family;
    return {
      id: linkDeviceSchema.parse(definition.id),
      berth: this.condition.berth ?? 1,
      connection: this.condition.connection,
      family: definition.family,
      familyName: family.name,
      kind: definition.kind,
      model: definition.model,
      name: this.empty ? `${family.name} ${definition.model}` : definition.name,
      serial: definition.serial,
      imei: definition.imei,
      osName: family.osName,
      osVersion: this.osVersion,
      capacity: definition.capacity,
      used: Math.min(definition.capacity, family.osBytes + (this.index?.bytes ?? 0)),
      content: readable ? (this.index?.amounts ?? []) : null,
      contentRevision: readable ? (this.index?.revision ?? 'empty') : null,
      charge: this.condition.charge,
      lock: !this.condition.passcodeSet ? 'no-passcode' : this.locked ? 'locked' : 'unlocked',
      approval: this.condition.approved
        ? 'approved'
        : this.locked || !this.portOpen || !family.capabilities.approval
          ? 'not-asked'
          : 'asking',
      workshopPort: family.openingSteps ? this.condition.workshopPort : null,
      openingSteps: family.openingSteps ?? [],
      confirmation: this.confirmation,
      wearable: this.condition.wearable,
      sealedStores: readable ? this.sealedStores() : [],
      osUpdate: this.condition.osUpdate,
      ownerLock: this.condition.ownerLock === 'unnoticed' ? 'off' : this.condition.ownerLock,
      empty: this.empty,
      settling: this.condition.settling,
      activity: this.activity,
      screen: this.screen(),
      capabilities: family.capabilities,
    };
  }

  sealedStores(): SealedStore[] {
    return Object.entries(this.family.sealedStores).flatMap(([group, name]) =>
      this.index?.groups.some((g) => g.class === 'applications' && g.id === group)
        ? [{ group, name, confirmed: this.condition.confirmedStores.includes(group) }]
        : [],
    );
  }

  screen(): string {
    const { screens } = this.family;
    if (this.activity !== 'idle') return screens[this.activity];
    if (this.locked) return screens.locked;
    if (!this.portOpen) return screens.portOff;
    if (this.condition.berth !== null && !this.approved) return screens.approve;
    if (this.condition.ownerLock === 'asking') return screens.owner;
    if (this.confirmation === 'asking') return screens.confirm;
    return this.empty ? screens.welcome : screens.home;
  }

  /** What it says of its owner once it begins anew. */
  get ownerLockNow(): StandInCondition['ownerLock'] {
    return this.condition.ownerLock === 'unnoticed' ? 'asking' : this.condition.ownerLock;
  }

  /** All that it asks of its owner when it was filled; applications that its store has download one by one. */
  asked(): SettlingStep[] {
    const offered = (this.index?.groups ?? []).filter(
      (group) => group.class === 'applications' && !isWithdrawn(group.id),
    );
    return this.family.settling.flatMap((id) => {
      const of = id === 'applications' ? offered.length : 1;
      return of > 0 ? [{ id, done: 0, of }] : [];
    });
  }

  get ownContents(): string {
    return this.definition.folder ?? join(this.home, 'contents');
  }

  mustBeReadable(): void {
    if (this.condition.berth === null) throw new LinkError('no-such-device');
    if (this.locked) throw new LinkError('locked');
    if (!this.portOpen) throw new LinkError('port-off');
    if (!this.approved) throw new LinkError('not-approved');
    if (this.condition.ownerLock === 'asking') throw new LinkError('owner-locked');
  }

  mustBeIdle(): void {
    if (this.activity !== 'idle') throw new LinkError('busy');
  }

  set(change: Partial<StandInCondition>, what: 'arrived' | 'changed' | 'left' = 'changed'): void {
    this.condition = { ...this.condition, ...change };
    this.changed(what);
  }
}
