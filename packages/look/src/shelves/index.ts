import type { AnyShelfPart, ShelfId, ShelfPart, ShelfRow } from '@bright-cellar/contract';
import { shelfIds } from '@bright-cellar/contract';
import { findable, monthsOf, type Findable, type Meant } from '@bright-cellar/core/look';
import { calendar } from './calendar.js';
import type { Contents, Shelf } from './define.js';
import { documents } from './documents.js';
import { notes } from './notes.js';
import { calls, contacts } from './people.js';
import { music, photographs, videos, voiceNotes } from './pictures.js';
import { alarms, applications, bookmarks, health, screens, visits } from './small.js';

const shelves: { [Id in ShelfId]: Shelf<Id> } = {
  ...{ contacts, calls, calendar, notes, photographs, videos, 'voice-notes': voiceNotes, music },
  ...{ documents, bookmarks, visits, alarms, health, applications, screens },
};

/** A file is what it is wherever it stands on its shelf; anything else is where it stands. */
const numberOf = (row: object, n: number): number =>
  'item' in row && typeof row.item === 'number' ? row.item : n;

const ROWS_AT_ONCE = 200;
const FIRST_ROWS = 5;

interface Filled<Id extends ShelfId> {
  rows: ShelfRow<Id>[];
  /** Made when somebody reads. */
  numbers: Map<ShelfRow<Id>, number>;
  /** Made when somebody looks for something. */
  findable: Findable[] | null;
}

/** The lists of a look-in: each is filled when somebody asks for it. */
export class Shelves {
  readonly #contents: Contents;
  readonly #filled = new Map<ShelfId, Filled<ShelfId>>();

  constructor(contents: Contents) {
    this.#contents = contents;
  }

  /** More is known of what is on it. */
  fillAnew(id: ShelfId): void {
    this.#filled.delete(id);
  }

  sizes(): { shelf: ShelfId; rows: number }[] {
    return shelfIds.map((shelf) => ({ shelf, rows: this.#fill(shelf).rows.length }));
  }

  part<Id extends ShelfId>(id: Id, meant: Meant, from: number): ShelfPart<Id> {
    const found = this.#find(id, meant);
    const one: Shelf<Id> = shelves[id];
    return {
      shelf: id,
      rows: this.#numbered(id, found.slice(from, from + ROWS_AT_ONCE)),
      total: found.length,
      months: monthsOf(found.flatMap((row) => (one.at ? { at: Date.parse(one.at(row)) } : []))),
    };
  }

  /** The first rows of every shelf that has any. */
  first(meant: Meant): AnyShelfPart[] {
    if (meant.isNothing) return [];
    return shelfIds.flatMap((id) => {
      const found = this.#find(id, meant);
      const rows = this.#numbered(id, found.slice(0, FIRST_ROWS));
      const part = { shelf: id, rows, total: found.length, months: [] } as unknown as AnyShelfPart;
      return found.length === 0 ? [] : [part];
    });
  }

  /** Rows by their numbers, as far as there are such. */
  numbered<Id extends ShelfId>(id: Id, numbers: ReadonlySet<number>): ShelfRow<Id>[] {
    return this.#fill(id).rows.filter((row, n) => numbers.has(numberOf(row, n)));
  }

  /** The numbers of what a search finds; of all of it where nothing is looked for. */
  numbersOf(id: ShelfId, meant: Meant): number[] {
    return this.#numbered(id, this.#find(id, meant)).map(({ row }) => row);
  }

  #numbered<Id extends ShelfId>(id: Id, some: readonly ShelfRow<Id>[]) {
    const { numbers, rows } = this.#fill(id);
    if (numbers.size === 0) rows.forEach((row, n) => numbers.set(row, numberOf(row, n)));
    return some.map((row) => ({
      ...(row as object),
      row: numbers.get(row) ?? 0,
    })) as (ShelfRow<Id> & {
      row: number;
    })[];
  }

  #find<Id extends ShelfId>(id: Id, meant: Meant): ShelfRow<Id>[] {
    const filled = this.#fill(id);
    if (meant.isNothing) return filled.rows;
    const one: Shelf<Id> = shelves[id];
    filled.findable ??= filled.rows.map((row) =>
      findable(one.words(row).join('\n'), one.at ? Date.parse(one.at(row)) : null),
    );
    const all = filled.findable;
    return filled.rows.filter((_, n) => {
      const told = all[n];
      return told !== undefined && meant.fits(told);
    });
  }

  #fill<Id extends ShelfId>(id: Id): Filled<Id> {
    const known = this.#filled.get(id) as Filled<Id> | undefined;
    if (known) return known;
    const filled: Filled<Id> = {
      rows: shelves[id].rows(this.#contents),
      numbers: new Map(),
      findable: null,
    };
    this.#filled.set(id, filled);
    return filled;
  }
}

export type { Contents, RecordsOf, Thing } from './define.js';
