const FIRST_SLOTS = 2 ** 12;
const FULL = 0.6;

/**
 * A number for each path, for a million paths: some thirty bytes each, and nothing for the collector to
 * look at. Paths are known by 52 bits of a digest: two may be taken for one, so whoever finds something
 * looks whether it is what was meant.
 */
export class PathTable {
  #slots = FIRST_SLOTS;
  /** Keys and values in turns; a free slot has the key 0. */
  #words = new Float64Array(2 * this.#slots);
  #count = 0;

  /** What was set before for the same key is replaced. @param value a whole number below 2^53. */
  set(path: string, value: number): void {
    if (this.#count >= this.#slots * FULL) this.#grow();
    this.#put(keyOf(path), value);
  }

  get(path: string): number | undefined {
    const at = this.#slotOf(keyOf(path));
    return this.#words[at] === 0 ? undefined : this.#words[at + 1];
  }

  #put(key: number, value: number): void {
    const at = this.#slotOf(key);
    if (this.#words[at] === 0) this.#count += 1;
    this.#words[at] = key;
    this.#words[at + 1] = value;
  }

  /** Where the key is, or would be. */
  #slotOf(key: number): number {
    for (let slot = key % this.#slots; ; slot = (slot + 1) % this.#slots) {
      const found = this.#words[2 * slot];
      if (found === 0 || found === key) return 2 * slot;
    }
  }

  #grow(): void {
    const before = this.#words;
    this.#slots *= 2;
    this.#words = new Float64Array(2 * this.#slots);
    this.#count = 0;
    for (let at = 0; at < before.length; at += 2) {
      const key = before[at] ?? 0;
      if (key !== 0) this.#put(key, before[at + 1] ?? 0);
    }
  }
}

/** 52 bits of FNV-1a, twice over; never 0. */
function keyOf(path: string): number {
  let one = 0x811c9dc5;
  let two = 0x01000193;
  for (let at = 0; at < path.length; at++) {
    const code = path.charCodeAt(at);
    one = Math.imul(one ^ code, 0x01000193);
    two = Math.imul(two ^ code, 0x85ebca6b) + (two >>> 15);
  }
  return (one >>> 6) * 2 ** 26 + ((two >>> 6) & 0x3ff_ffff) + 1;
}
