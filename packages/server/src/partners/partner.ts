import type { SyncedKind } from '@bright-cellar/core';

/** An address book, or a calendar as what it is there for: one may hold events, tasks and memos. */
export interface PartnerCollection {
  /** Where it is. */
  id: string;
  name: string;
  kind: SyncedKind;
}

/** A file there: one card, task or memo, or an event with what stands for its occurrences. */
export interface PartnerResource {
  id: string;
  /** Another once its contents are. */
  tag: string;
  contents: Uint8Array;
}

/** Whom a device is kept in step with. Everything may throw `partner-not-here` and `partner-refused`. */
export interface Partner {
  collections(): Promise<PartnerCollection[]>;
  resources(collection: PartnerCollection): Promise<PartnerResource[]>;
  /** One of them as it is there now; null where it is none any more. */
  resource(collection: PartnerCollection, id: string): Promise<PartnerResource | null>;
  /** @returns where it lies then. @throws Failure `changed-meanwhile` where one has that name */
  create(collection: PartnerCollection, name: string, contents: Uint8Array): Promise<string>;
  /** @throws Failure `changed-meanwhile` where it is not as it was read, any more */
  replace(resource: Pick<PartnerResource, 'id' | 'tag'>, contents: Uint8Array): Promise<void>;
  /** What is gone already is gone. @throws Failure `changed-meanwhile` */
  remove(resource: Pick<PartnerResource, 'id' | 'tag'>): Promise<void>;
}
