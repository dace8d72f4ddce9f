import type { DataClass, DeviceFacts } from '@bright-cellar/core';
import type { Entry, Group, NewEntry, RestoreOffer } from '@bright-cellar/device-link';

/** What a device did, as whoever follows the bench is told. */
export type DeviceNews = 'arrived' | 'changed' | 'left';

/** A device as the link's routes know it: its contents are the files of a folder. Whatever it refuses it throws as a LinkError. */
export interface LinkDevice {
  readonly id: string;
  readonly serial: string;
  /** Where it is; null while it is not on the bench. */
  readonly berth: number | null;
  facts(): DeviceFacts;
  /** Somebody speaks to it over the link. */
  touched(): Promise<void>;
  /** Contents on their way over its cable. */
  carry(pieces: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array>;

  /** Looks through the contents anew. @returns what stands for all of them as they are now */
  lookAgain(): Promise<string>;
  /** Everything of one class that it lists now, and what stands for the whole listing. */
  listing(dataClass: DataClass): { revision: string; entries: readonly Entry[] };
  groups(): Group[];
  /** One that it gives out, and the folder that its path is in. */
  find(entry: string): { folder: string; entry: Entry };

  beginBackup(encrypted: boolean): Promise<'running' | 'asking'>;
  endBackup(): void;
  /** @param id what the restore is called from now on */
  beginRestore(id: string, offer: RestoreOffer): Promise<void>;
  /** Puts one entry where a restore gathers. @returns how many bytes of it are there */
  receive(id: string, entry: NewEntry, contents: AsyncIterable<Uint8Array>): Promise<number>;
  /** Takes one back out of there. */
  drop(id: string, path: string): Promise<void>;
  /** Accepts what was received, and puts it in its place. */
  commitRestore(id: string, sent: { items: number; bytes: number }): void;
  /** Takes single entries beside what is on it, from now on. @param id what that is called */
  beginAddition(id: string, serial: string): Promise<void>;
  /** Puts one entry in its place, all of it or nothing. @returns how many bytes of it are there */
  /** @param replaces the revision of what it takes the place of; null where nothing may be */
  add(
    id: string,
    entry: NewEntry,
    contents: AsyncIterable<Uint8Array>,
    replaces: string | null,
  ): Promise<number>;
  /** Takes away what is of that revision still. */
  takeAway(id: string, path: string, revision: string): Promise<void>;
  /** Whichever runs; nothing where none does. */
  endAddition(): Promise<void>;
  update(): Promise<void>;
  /** Begins it; the device leaves soon after. */
  restart(): void;
  erase(): Promise<void>;
}
