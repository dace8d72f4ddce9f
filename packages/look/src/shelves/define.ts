import type { ShelfId, ShelfRow } from '@bright-cellar/contract';
import type { DataClass } from '@bright-cellar/core';
import type { Records } from '@bright-cellar/core/formats';
import type { People } from '@bright-cellar/core/look';
import type { Held } from '../source.js';
import type { Taken } from '../taken.js';

/** Records of one kind. */
export type RecordsOf<Kind extends Records['kind']> = Extract<Records, { kind: Kind }>;

/** Everything that was read of a backup, for shelves to be filled with. */
export interface Contents {
  people: People;
  /** Of a kind, in the order in which they were read, each with the file in which it stood. */
  records<Kind extends Records['kind']>(kind: Kind): { records: RecordsOf<Kind>; file: number }[];
  /** Files of a class by their numbers, in the order of their paths. */
  files(dataClass: DataClass): readonly number[];
  /** A file by its number. */
  file(number: number): Held;
  /** When and where photographs were taken, as far as that was read. */
  taken: ReadonlyMap<number, Taken>;
  /** When the backup was taken, ms since 1970. */
  takenAt: number;
  /** Where the shop is: an IANA time zone. */
  zone: string;
}

/** Rows of a shelf, in the order in which they are read. A row is made when somebody sees it: of some shelves there are very many. */
export interface Rows<Row> {
  readonly length: number;
  at(place: number): Row;
  /** What a row is called wherever it stands: the number of the file that it is; for anything else its place. */
  numberOf(place: number): number;
  /** UTC, ms since 1970; null where rows have no time. */
  timeOf(place: number): number | null;
  /** What somebody may look for in a row. */
  wordsOf(place: number): readonly (string | number)[];
}

/** What can be read as a list. One file, and one line in the index, adds one. */
export interface Shelf<Id extends ShelfId = ShelfId> {
  id: Id;
  rows(contents: Contents): Rows<ShelfRow<Id>>;
}

export const shelf = <Id extends ShelfId>(one: Shelf<Id>): Shelf<Id> => one;

/** Rows that were read, and are there. @param told when a row was, for what is told in the order of time */
export function listed<Row extends object>(
  rows: readonly Row[],
  words: (row: Row) => readonly (string | number)[],
  told?: (row: Row) => string,
): Rows<Row> {
  const at = (place: number): Row => {
    const row = rows[place];
    if (!row) throw new RangeError('there is no such row');
    return row;
  };
  return {
    length: rows.length,
    at,
    numberOf: (place) => {
      const row = at(place);
      return 'item' in row && typeof row.item === 'number' ? row.item : place;
    },
    timeOf: (place) => (told ? Date.parse(told(at(place))) : null),
    wordsOf: (place) => words(at(place)),
  };
}

/** Files of a class as rows. */
export interface FileRows<Row> {
  /** When a file was: UTC, ms since 1970. */
  time: (file: number) => number;
  row: (file: number) => Row;
  words: (file: number) => readonly string[];
  /** Which comes first; the newest where nothing is said. */
  order?: (a: number, b: number) => number;
}

export function filed<Row>(
  contents: Contents,
  dataClass: DataClass,
  { time, row, words, order }: FileRows<Row>,
): Rows<Row> {
  const files = contents.files(dataClass);
  const fileOf = (n: number) => files[n] ?? 0;
  const times = Float64Array.from(files, time);
  const places = Uint32Array.from(files, (_, n) => n).sort((a, b) =>
    order ? order(fileOf(a), fileOf(b)) : (times[b] ?? 0) - (times[a] ?? 0),
  );
  const fileAt = (place: number) => fileOf(places[place] ?? 0);
  return {
    length: files.length,
    at: (place) => row(fileAt(place)),
    numberOf: fileAt,
    timeOf: (place) => times[places[place] ?? 0] ?? null,
    wordsOf: (place) => words(fileAt(place)),
  };
}

export const byName = new Intl.Collator('en', { sensitivity: 'base', numeric: true });
export const newestFirst = (a: { at: string }, b: { at: string }): number =>
  a.at < b.at ? 1 : a.at > b.at ? -1 : 0;
/** ISO 8601, UTC. @param at ms since 1970 */
export const isoOf = (at: number): string => new Date(at).toISOString();
