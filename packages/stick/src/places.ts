import { Failure } from '@bright-cellar/core';

const ID_BYTES = 32;
const BLOCK_HEAD_BYTES = 92;
const ENTRY_BYTES = 44;
const hex = (bytes: Uint8Array) =>
  [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');

/** A chunk's id as a key: a letter a byte. */
export const idAt = (bytes: Uint8Array, at: number): string =>
  String.fromCharCode(...bytes.subarray(at, at + ID_BYTES));
export const ID_LETTERS = ID_BYTES;

/** Where a chunk lies. */
export interface Place {
  pack: string;
  offset: number;
  /** Bytes of ciphertext. */
  stored: number;
  /** Bytes of the chunk. */
  plain: number;
}

/** Which chunk lies where, for as many as there are: docs/archive-format.md, “Indexes”. */
export class Places {
  readonly #packs: string[] = [];
  readonly #numbers = new Map<string, number>();
  /** Four numbers each: the pack's, then as in {@link Place}. */
  #where = new Uint32Array(4096);

  /** Takes in the blocks of one frame of an index. @throws Failure `archive-damaged` */
  add(frame: Uint8Array): void {
    const view = new DataView(frame.buffer, frame.byteOffset, frame.length);
    for (let at = 0; at < frame.length;) {
      if (frame.length - at < BLOCK_HEAD_BYTES) throw new Failure('archive-damaged');
      const count = view.getUint32(at + BLOCK_HEAD_BYTES - 4);
      const pack = this.#packs.push(hex(frame.subarray(at, at + 16))) - 1;
      at += BLOCK_HEAD_BYTES;
      if (at + count * ENTRY_BYTES > frame.length) throw new Failure('archive-damaged');
      for (let n = 0; n < count; n++, at += ENTRY_BYTES) {
        const id = idAt(frame, at);
        if (this.#numbers.has(id)) continue;
        const number = this.#numbers.size;
        this.#numbers.set(id, number);
        if (4 * number + 4 > this.#where.length) this.#grow();
        this.#where[4 * number] = pack;
        for (const field of [0, 1, 2])
          this.#where[4 * number + 1 + field] = view.getUint32(at + ID_BYTES + 4 * field);
      }
    }
  }

  /** @throws Failure `archive-damaged` where nothing knows it */
  of(id: string): Place {
    const number = this.#numbers.get(id);
    if (number === undefined) throw new Failure('archive-damaged');
    const [pack = 0, offset = 0, stored = 0, plain = 0] = this.#where.subarray(
      4 * number,
      4 * number + 4,
    );
    return { pack: this.#packs[pack] ?? '', offset, stored, plain };
  }

  #grow(): void {
    const larger = new Uint32Array(2 * this.#where.length);
    larger.set(this.#where);
    this.#where = larger;
  }
}
