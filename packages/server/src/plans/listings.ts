import {
  dataClassIds,
  Failure,
  isWithheld,
  type DataClass,
  type DeviceFacts,
  type LinkDeviceId,
} from '@bright-cellar/core';
import type { Listing } from '@bright-cellar/contract';
import { LinkError, type DeviceLink, type Entry, type Group } from '@bright-cellar/device-link';

/** Everything on a device, as it was listed. */
export interface Listed {
  revision: string;
  entries: readonly Entry[];
  groups: readonly Group[];
}

/** Enough for every berth of a shop; a longer list of lists is memory that nobody looks at. */
const KEPT = 8;

/** What devices hold, listed once for as long as it does not change. In memory only: names are the customer's. */
export class Listings {
  readonly #link: DeviceLink;
  readonly #kept = new Map<string, { revision: string; listed: Promise<Listed> }>();

  constructor(link: DeviceLink) {
    this.#link = link;
  }

  /** @throws Failure `device-not-ready` when the device does not let itself be read, `device-left`. */
  async of(facts: DeviceFacts): Promise<Listed> {
    const { id, contentRevision } = facts;
    if (contentRevision === null) throw new Failure('device-not-ready');
    const known = this.#kept.get(id);
    if (known?.revision === contentRevision) return known.listed;
    const listed = this.#list(id, contentRevision);
    this.#kept.delete(id);
    this.#kept.set(id, { revision: contentRevision, listed });
    for (const oldest of [...this.#kept.keys()].slice(0, -KEPT)) this.#kept.delete(oldest);
    try {
      return await listed;
    } catch (error) {
      if (this.#kept.get(id)?.listed === listed) this.#kept.delete(id);
      throw error;
    }
  }

  /** A device that left takes its names with it. */
  forget(deviceId: LinkDeviceId): void {
    this.#kept.delete(deviceId);
  }

  async #list(id: LinkDeviceId, revision: string): Promise<Listed> {
    try {
      const entries: Entry[] = [];
      for (const dataClass of dataClassIds) {
        for await (const entry of this.#link.entries(id, dataClass)) entries.push(entry);
      }
      return { revision, entries, groups: await this.#link.groups(id) };
    } catch (error) {
      if (!(error instanceof LinkError)) throw error;
      throw new Failure(
        error.code === 'no-such-device' || error.code === 'left' ? 'device-left' : 'link-failed',
        { safe: 'Nothing was started.' },
        { cause: error },
      );
    }
  }
}

/** What the device would give out of it for a backup that is encrypted, or is not. */
export function givenOut(
  device: DeviceFacts,
  { entries }: Listed,
  encrypted: boolean,
): readonly Entry[] {
  return entries.filter((entry) => !isWithheld(device, entry.class, encrypted));
}

const placeOf = new Map<DataClass, number>(dataClassIds.map((id, i) => [id, i]));

/** The same as columns for a browser. @param withNames only where the customer agreed that the shop looks inside */
export function listingView({ revision, entries, groups }: Listed, withNames: boolean): Listing {
  const groupIds = [...new Set(entries.map((e) => e.group))];
  const groupPlaces = new Map(groupIds.map((id, i) => [id, i]));
  return {
    revision,
    groups: [...groups],
    ids: entries.map((e) => e.id),
    classes: entries.map((e) => placeOf.get(e.class) ?? 0),
    inGroups: entries.map((e) => groupPlaces.get(e.group) ?? 0),
    groupIds,
    names: withNames ? entries.map((e) => e.path.split('/').slice(-1)[0] ?? '') : null,
    bytes: entries.map((e) => e.bytes),
    modified: entries.map((e) => Date.parse(e.modified)),
  };
}
