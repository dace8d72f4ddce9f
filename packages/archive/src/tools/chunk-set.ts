/**
 * Which chunks an archive holds, in memory that all threads share. Two that add the same chunk at the same
 * moment may both be told that it is new: it is then stored twice, which costs room and nothing else.
 * Open addressing over 16 bytes of each id; a full set grows by another, larger table.
 */
const SLOT_WORDS = 4;
const FIRST_SLOTS = 2 ** 15;
const FULL = 0.6;

/** What another thread needs to see the same set. */
export type SharedTable = SharedArrayBuffer;

class Table {
  readonly shared: SharedTable;
  readonly #count: Int32Array;
  readonly #words: Int32Array;
  readonly #slots: number;

  constructor(shared: SharedTable) {
    this.shared = shared;
    this.#count = new Int32Array(shared, 0, 1);
    this.#words = new Int32Array(shared, 4);
    this.#slots = this.#words.length / SLOT_WORDS;
  }

  static of(slots: number): Table {
    return new Table(new SharedArrayBuffer(4 + slots * SLOT_WORDS * 4));
  }

  get slots(): number {
    return this.#slots;
  }

  get isFull(): boolean {
    return Atomics.load(this.#count, 0) > this.#slots * FULL;
  }

  /** @returns whether it was there. */
  find(id: Buffer, add: boolean): boolean {
    // Zero marks a free slot: no id begins with it.
    const first = id.readInt32LE(0) | 1;
    const second = id.readInt32LE(4);
    const third = id.readInt32LE(8);
    const fourth = id.readInt32LE(12);
    const words = this.#words;
    const mask = this.#slots - 1;
    for (let slot = second & mask; ; slot = (slot + 1) & mask) {
      const at = slot * SLOT_WORDS;
      let seen = Atomics.load(words, at);
      if (seen === 0) {
        if (!add) return false;
        seen = Atomics.compareExchange(words, at, 0, first);
        if (seen === 0) {
          Atomics.store(words, at + 1, second);
          Atomics.store(words, at + 2, third);
          Atomics.store(words, at + 3, fourth);
          Atomics.add(this.#count, 0, 1);
          return false;
        }
      }
      const same =
        seen === first &&
        Atomics.load(words, at + 1) === second &&
        Atomics.load(words, at + 2) === third &&
        Atomics.load(words, at + 3) === fourth;
      if (same) return true;
    }
  }
}

export class ChunkSet {
  readonly #tables: Table[];

  constructor(tables: SharedTable[] = []) {
    this.#tables = tables.map((shared) => new Table(shared));
  }

  has(id: Buffer): boolean {
    return this.#tables.some((table) => table.find(id, false));
  }

  /** Whether all of them are there. @param ids 32 bytes each. */
  hasAll(ids: Buffer): boolean {
    for (let at = 0; at < ids.length; at += 32)
      if (!this.has(ids.subarray(at, at + 32))) return false;
    return true;
  }

  /** @returns whether it is new. */
  add(id: Buffer): boolean {
    const newest = this.#tables.at(-1);
    if (!newest) throw new Error('a set without a table');
    for (const table of this.#tables) if (table !== newest && table.find(id, false)) return false;
    return !newest.find(id, true);
  }

  /** Adds a table when the newest is nearly full. @returns it, for the other threads. */
  grow(): SharedTable | null {
    const newest = this.#tables.at(-1);
    if (newest && !newest.isFull) return null;
    const table = Table.of(newest ? newest.slots * 4 : FIRST_SLOTS);
    this.#tables.push(table);
    return table.shared;
  }

  /** Takes in a table that another thread has made. */
  take(shared: SharedTable): void {
    this.#tables.push(new Table(shared));
  }

  tables(): SharedTable[] {
    return this.#tables.map((table) => table.shared);
  }
}
