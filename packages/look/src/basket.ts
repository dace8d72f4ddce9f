import { shelfIds, type Basket as InHand, type Pick, type ShelfId } from '@bright-cellar/contract';
import { dataClasses, type DataClass } from '@bright-cellar/core';
import { Meant, type Conversation } from '@bright-cellar/core/look';
import type { Shelves } from './shelves/index.js';

/** What was said of a conversation, as far as it is in hand. */
export interface Chosen {
  conversation: Conversation;
  /** Months (`2026-03`, UTC); null for all of it. */
  months: ReadonlySet<string> | null;
}

/** What is in hand, put together: nothing in it twice. */
export interface Hand {
  conversations: Chosen[];
  rows: Map<ShelfId, Set<number>>;
  files: number[];
}

/** What a basket asks of the look-in that it belongs to. */
export interface Lookable {
  shelves: Shelves;
  conversation(id: number): Conversation | undefined;
  /** Files of a class that fit what is looked for, by their numbers. */
  filesOf(dataClass: DataClass, text: string): readonly number[];
  now(): Date;
}

/** Things that somebody took in hand while they read. It lives as long as the look-in, wherever they read in it. */
export class Basket {
  readonly #picks = new Map<string, Pick>();
  readonly #look: Lookable;

  constructor(look: Lookable) {
    this.#look = look;
  }

  add(picks: readonly Pick[]): void {
    for (const pick of picks) this.#picks.set(JSON.stringify(pick), pick);
  }

  /** @param keys all of it where there are none */
  putBack(keys: readonly string[]): void {
    if (keys.length === 0) this.#picks.clear();
    for (const key of keys) this.#picks.delete(key);
  }

  inHand(): InHand {
    return { picks: [...this.#picks].map(([key, pick]) => ({ key, ...this.#told(pick) })) };
  }

  /** All of it, each thing once. */
  hand(): Hand {
    const rows = new Map<ShelfId, Set<number>>();
    const hold = (shelf: ShelfId, numbers: readonly number[]) => {
      const held = rows.get(shelf) ?? new Set();
      rows.set(shelf, held);
      for (const number of numbers) held.add(number);
    };
    const said = new Map<number, Set<string> | null>();
    const files = new Set<number>();
    for (const pick of this.#picks.values()) {
      if (pick.of === 'conversation') {
        const months = said.get(pick.conversation);
        if (pick.month === null || months === null) said.set(pick.conversation, null);
        else said.set(pick.conversation, new Set([...(months ?? []), pick.month]));
      }
      if (pick.of === 'person') {
        said.set(pick.conversation, null);
        for (const [shelf, numbers] of this.#ofPerson(pick.conversation)) hold(shelf, numbers);
      }
      if (pick.of === 'row') hold(pick.shelf, [pick.row]);
      if (pick.of === 'found') hold(pick.shelf, this.#found(pick.shelf, pick.text));
      if (pick.of === 'files') {
        for (const item of this.#look.filesOf(pick.class, pick.text)) files.add(item);
      }
    }
    const conversations = [...said].flatMap(([id, months]) => {
      const conversation = this.#look.conversation(id);
      return conversation ? [{ conversation, months }] : [];
    });
    return { conversations, rows, files: [...files] };
  }

  #found(shelf: ShelfId, text: string): number[] {
    return this.#look.shelves.numbersOf(shelf, new Meant(text, this.#look.now()));
  }

  /** Cards and calls of whoever a conversation is with. */
  #ofPerson(id: number): [ShelfId, number[]][] {
    const names = new Set(this.#look.conversation(id)?.people);
    const all = (shelf: 'contacts' | 'calls') => {
      const numbers = this.#found(shelf, '');
      const rows = this.#look.shelves.numbered(shelf, new Set(numbers));
      return numbers.filter((_, n) => names.has(rows[n]?.name ?? ''));
    };
    return [
      ['contacts', all('contacts')],
      ['calls', all('calls')],
    ];
  }

  #told(pick: Pick): { words: string; count: number } {
    const wholeShelf = (shelf: ShelfId) => nameOfShelf[shelf];
    switch (pick.of) {
      case 'conversation':
      case 'person': {
        const conversation = this.#look.conversation(pick.conversation);
        const whose = conversation?.people.join(', ') ?? '';
        const said = conversation?.said ?? [];
        if (pick.of === 'person') {
          const more = this.#ofPerson(pick.conversation).flatMap(([, numbers]) => numbers);
          return { words: `All with ${whose || 'nobody else'}`, count: said.length + more.length };
        }
        const { month } = pick;
        const count =
          month === null
            ? said.length
            : said.filter(({ at }) => new Date(at).toISOString().startsWith(month)).length;
        return {
          words: `What was said with ${whose || 'nobody else'}${month ? ` in ${month}` : ''}`,
          count,
        };
      }
      case 'row': {
        const [row] = this.#look.shelves.numbered(pick.shelf, new Set([pick.row]));
        return { words: `${wholeShelf(pick.shelf)}: ${row ? wordsOf(row) : 'gone'}`, count: 1 };
      }
      case 'found':
        return {
          words:
            pick.text === ''
              ? `${wholeShelf(pick.shelf)}, all`
              : `${wholeShelf(pick.shelf)} with “${pick.text}”`,
          count: this.#found(pick.shelf, pick.text).length,
        };
      case 'files':
        return {
          words: `${dataClasses[pick.class]} as files${pick.text ? ` with “${pick.text}”` : ''}`,
          count: this.#look.filesOf(pick.class, pick.text).length,
        };
    }
  }
}

const nameOfShelf: Record<ShelfId, string> = {
  ...(Object.fromEntries(
    shelfIds.map((id) => [id, id in dataClasses ? dataClasses[id as DataClass] : id]),
  ) as Record<ShelfId, string>),
  ...{ bookmarks: 'Bookmarks', visits: 'Pages visited', screens: 'Home screen' },
};

/** What a row is called, of whatever shelf. */
function wordsOf(row: object): string {
  for (const name of ['title', 'name', 'path', 'what', 'page', 'time'] as const) {
    const words = (row as Partial<Record<string, unknown>>)[name];
    if (typeof words === 'string' && words !== '') return words.slice(0, 80);
  }
  return 'without a name';
}
