import type { ShelfId, ShelfRow } from '@bright-cellar/contract';
import type { DataClass } from '@bright-cellar/core';
import type { Records } from '@bright-cellar/core/formats';
import type { People } from '@bright-cellar/core/look';
import type { Taken } from '../taken.js';

/** An item of a backup, as shelves see it. */
export interface Thing {
  /** Its number in this look-in. */
  item: number;
  path: string;
  bytes: number;
  modified: string;
  /** A media type; null where the device did not say. */
  format: string | null;
  /** The same for all that have the very same contents. */
  contents: string;
}

/** Records of one kind, with where each was read. */
export type RecordsOf<Kind extends Records['kind']> = Extract<Records, { kind: Kind }>;

/** Everything that was read of a backup, for shelves to be filled with. */
export interface Contents {
  people: People;
  /** Of a kind, in the order in which they were read. */
  records<Kind extends Records['kind']>(kind: Kind): { records: RecordsOf<Kind>; thing: Thing }[];
  /** Files of a class, in the order of their paths. */
  things(dataClass: DataClass): Thing[];
  /** When and where photographs were taken, as far as that was read. */
  taken: ReadonlyMap<number, Taken>;
  /** When the backup was taken, ms since 1970. */
  takenAt: number;
  /** Where the shop is: an IANA time zone. */
  zone: string;
}

/** What can be read as a list. One file, and one line in the index, adds one. */
export interface Shelf<Id extends ShelfId = ShelfId> {
  id: Id;
  /** All of it, in the order in which it is read. */
  rows(contents: Contents): ShelfRow<Id>[];
  /** What somebody may look for in a row. */
  words(row: ShelfRow<Id>): readonly (string | number)[];
  /** When a row was, where they are told in the order of time. */
  at?(row: ShelfRow<Id>): string;
}

export const shelf = <Id extends ShelfId>(one: Shelf<Id>): Shelf<Id> => one;
export const byName = new Intl.Collator('en', { sensitivity: 'base', numeric: true });
export const newestFirst = (a: { at: string }, b: { at: string }): number =>
  a.at < b.at ? 1 : a.at > b.at ? -1 : 0;
