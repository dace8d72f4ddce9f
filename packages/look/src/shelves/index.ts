import type { AnyShelfPart, ShelfId, ShelfPart, ShelfRow } from '@bright-cellar/contract';
import { shelfIds } from '@bright-cellar/contract';
import { Findables, monthsOf, type Meant } from '@bright-cellar/core/look';
import { calendar, tasks } from './calendar.js';
import type { Contents, Rows, Shelf } from './define.js';
import { documents } from './documents.js';
import { notes } from './notes.js';
import { calls, contacts } from './people.js';
import { music, photographs, videos, voiceNotes } from './pictures.js';
import { alarms, applications, bookmarks, health, screens, visits } from './small.js';

const shelves: { [Id in ShelfId]: Shelf<Id> } = {
  ...{
    contacts,
    calls,
    calendar,
    tasks,
    notes,
    photographs,
    videos,
    'voice-notes': voiceNotes,
    music,
  },
  ...{ documents, bookmarks, visits, alarms, health, applications, screens },
};

const ROWS_AT_ONCE = 200;
const FIRST_ROWS = 5;

interface Filled<Id extends ShelfId> {
  rows: Rows<ShelfRow<Id>>;
  /** Made when somebody looks for something. */
  findables: Findables | null;
}

/** The lists of a look-in: each is filled when somebody asks for it. */
export class Shelves {
  readonly #contents: Contents;
  readonly #filled = new Map<ShelfId, Filled<ShelfId>>();

  constructor(contents: Contents) {
    this.#contents = contents;
  }

  /** Makes what a search in it needs, before somebody waits for that. */
  prepare(id: ShelfId): void {
    const filled = this.#fill(id);
    filled.findables ??= findablesOf(filled.rows);
  }

  /** More is known of what is on it. */
  fillAnew(id: ShelfId): void {
    this.#filled.delete(id);
  }

  sizes(): { shelf: ShelfId; rows: number }[] {
    return shelfIds.map((shelf) => ({ shelf, rows: this.#fill(shelf).rows.length }));
  }

  part<Id extends ShelfId>(id: Id, meant: Meant, from: number): ShelfPart<Id> {
    const { rows } = this.#fill(id);
    const found = this.#find(id, meant);
    return {
      shelf: id,
      rows: this.#told(rows, found.slice(from, from + ROWS_AT_ONCE)),
      total: found.length,
      months: monthsOf(timesOf(rows, found)),
    };
  }

  /** The first rows of every shelf that has any. */
  first(meant: Meant): AnyShelfPart[] {
    if (meant.isNothing) return [];
    return shelfIds.flatMap((id) => {
      const found = this.#find(id, meant);
      if (found.length === 0) return [];
      const rows = this.#told(this.#fill(id).rows, found.slice(0, FIRST_ROWS));
      return [{ shelf: id, rows, total: found.length, months: [] } as unknown as AnyShelfPart];
    });
  }

  /** Rows by their numbers, as far as there are such. */
  numbered<Id extends ShelfId>(id: Id, numbers: ReadonlySet<number>): ShelfRow<Id>[] {
    const { rows } = this.#fill(id);
    return placesOf(rows)
      .filter((place) => numbers.has(rows.numberOf(place)))
      .map((place) => rows.at(place));
  }

  /** The first row, and others by chance; no two the same. @param random from 0 up to, not including, 1 */
  drawn<Id extends ShelfId>(id: Id, count: number, random: () => number): ShelfRow<Id>[] {
    const { rows } = this.#fill(id);
    const places = new Set<number>(rows.length > 0 ? [0] : []);
    while (places.size < Math.min(count, rows.length))
      places.add(Math.floor(random() * rows.length));
    return [...places].map((place) => rows.at(place));
  }

  /** The numbers of what a search finds; of all of it where nothing is looked for. */
  numbersOf(id: ShelfId, meant: Meant): number[] {
    const { rows } = this.#fill(id);
    return this.#find(id, meant).map((place) => rows.numberOf(place));
  }

  #told<Id extends ShelfId>(rows: Rows<ShelfRow<Id>>, places: readonly number[]) {
    return places.map((place) => ({
      ...(rows.at(place) as object),
      row: rows.numberOf(place),
    })) as (ShelfRow<Id> & { row: number })[];
  }

  /** Where what fits stands. */
  #find(id: ShelfId, meant: Meant): number[] {
    const filled = this.#fill(id);
    const { rows } = filled;
    if (meant.isNothing) return placesOf(rows);
    filled.findables ??= findablesOf(rows);
    return filled.findables.find(meant);
  }

  #fill<Id extends ShelfId>(id: Id): Filled<Id> {
    const known = this.#filled.get(id) as Filled<Id> | undefined;
    if (known) return known;
    const filled: Filled<Id> = {
      rows: shelves[id].rows(this.#contents),
      findables: null,
    };
    this.#filled.set(id, filled);
    return filled;
  }
}

function findablesOf(rows: Rows<unknown>): Findables {
  const texts = function* () {
    for (let place = 0; place < rows.length; place++)
      yield { text: rows.wordsOf(place).join('\n'), at: rows.timeOf(place) };
  };
  return new Findables(texts());
}

const placesOf = ({ length }: { length: number }): number[] =>
  Array.from({ length }, (_, place) => place);

function* timesOf(rows: Rows<unknown>, places: readonly number[]): Generator<number> {
  for (const place of places) {
    const time = rows.timeOf(place);
    if (time === null) return;
    yield time;
  }
}

export type { Contents, RecordsOf } from './define.js';
