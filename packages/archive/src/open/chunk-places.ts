import type { ChunkEntry, PackBlock } from '../format/chunk-index.js';
import { entriesOf } from '../format/chunk-index.js';

/** Where a chunk lies: which pack, by its number in {@link ChunkPlaces.packs}, and where in it. */
export interface ChunkPlace {
  pack: number;
  offset: number;
  stored: number;
  plain: number;
}

const SLOT_WORDS = 8;
const FULL = 0.6;

/** Every chunk of an archive and its place: 32 bytes a slot, whatever the length of its contents. */
export class ChunkPlaces {
  readonly packs: { id: string; size: number; sha512: string }[] = [];
  #slots = 2 ** 12;
  #words = new Int32Array(this.#slots * SLOT_WORDS);
  #count = 0;

  get count(): number {
    return this.#count;
  }

  addPack(block: PackBlock): void {
    const { pack: id, size, sha512 } = block;
    const number = this.packs.push({ id, size, sha512 }) - 1;
    for (const entry of entriesOf(block)) this.#add(entry, number);
  }

  find(id: Buffer): ChunkPlace | null {
    const at = this.#slotOf(id);
    const words = this.#words;
    const pack = words[at + 4] ?? 0;
    if (pack === 0) return null;
    return {
      pack: pack - 1,
      offset: (words[at + 5] ?? 0) >>> 0,
      stored: words[at + 6] ?? 0,
      plain: words[at + 7] ?? 0,
    };
  }

  #add({ id, offset, stored, plain }: ChunkEntry, pack: number): void {
    if (this.#count >= this.#slots * FULL) this.#grow();
    const at = this.#slotOf(id);
    // Stored twice: the first is as good.
    if (this.#words[at + 4] !== 0) return;
    this.#words.set(
      [id.readInt32LE(0), id.readInt32LE(4), id.readInt32LE(8), id.readInt32LE(12)],
      at,
    );
    this.#words.set([pack + 1, offset | 0, stored, plain], at + 4);
    this.#count += 1;
  }

  /** Where the chunk is in the table, or the free slot where it would be. */
  #slotOf(id: Buffer): number {
    const [first, second] = [id.readInt32LE(0), id.readInt32LE(4)];
    const [third, fourth] = [id.readInt32LE(8), id.readInt32LE(12)];
    const words = this.#words;
    const mask = this.#slots - 1;
    for (let slot = second & mask; ; slot = (slot + 1) & mask) {
      const at = slot * SLOT_WORDS;
      const same =
        words[at] === first &&
        words[at + 1] === second &&
        words[at + 2] === third &&
        words[at + 3] === fourth;
      if (words[at + 4] === 0 || same) return at;
    }
  }

  #grow(): void {
    const old = this.#words;
    this.#slots *= 2;
    this.#words = new Int32Array(this.#slots * SLOT_WORDS);
    const id = Buffer.alloc(16);
    for (let from = 0; from < old.length; from += SLOT_WORDS) {
      if (old[from + 4] === 0) continue;
      for (let word = 0; word < 4; word++) id.writeInt32LE(old[from + word] ?? 0, word * 4);
      this.#words.set(old.subarray(from, from + SLOT_WORDS), this.#slotOf(id));
    }
  }
}
