import { digitsOf, folded } from './fold.js';
import type { Meant } from './meant.js';

/** What can be found: by its words, by a number in it, or by when it was. */
export interface Findable {
  text: string;
  /** UTC, ms since 1970; null for what has no time. */
  at: number | null;
}

/** So many letters make one string: long enough to be looked through fast, short enough that a few foreign ones widen little. */
const TOGETHER = 256 * 1024;
const NEVER = Number.NaN;

/** Texts one after the other in a few long strings: a string of its own for each takes several times as much. */
class Texts {
  readonly #parts: { all: string; starts: Uint32Array; first: number }[] = [];
  #waiting: string[] = [];
  #letters = 0;
  #count = 0;

  add(text: string): void {
    this.#waiting.push(text);
    this.#letters += text.length + 1;
    this.#count += 1;
    if (this.#letters >= TOGETHER) this.#close();
  }

  #close(): void {
    const starts = new Uint32Array(this.#waiting.length);
    let at = 0;
    this.#waiting.forEach((text, n) => {
      starts[n] = at;
      at += text.length + 1;
    });
    const first = this.#count - this.#waiting.length;
    this.#parts.push({ all: this.#waiting.join('\n'), starts, first });
    this.#waiting = [];
    this.#letters = 0;
  }

  /** Tells each text that has a word, by its number, in order and once. @param word without white space: none reaches over two texts */
  having(word: string, tell: (n: number) => void): void {
    if (this.#waiting.length > 0) this.#close();
    for (const { all, starts, first } of this.#parts) {
      let n = 0;
      for (let at = all.indexOf(word); at >= 0;) {
        while (n + 1 < starts.length && (starts[n + 1] ?? 0) <= at) n += 1;
        tell(first + n);
        n += 1;
        if (n >= starts.length) break;
        at = all.indexOf(word, starts[n]);
      }
    }
  }
}

/** Many texts, made once to be looked through often. All of them are looked through within milliseconds for each hundred thousand. */
export class Findables {
  readonly #words = new Texts();
  /** All digits of a text, one after the other, where they may be a number. */
  readonly #digits = new Texts();
  readonly #numbered: number[] = [];
  readonly #at: number[] = [];

  constructor(all: Iterable<Findable>) {
    for (const { text, at } of all) {
      if (/\d.*\d.*\d.*\d/.test(text)) {
        this.#numbered.push(this.#at.length);
        this.#digits.add(digitsOf(text));
      }
      this.#words.add(folded(text));
      this.#at.push(at ?? NEVER);
    }
  }

  /** The numbers of those that fit, in order. */
  find({ words, number, dated }: Meant): number[] {
    const found = this.#withAll(words);
    if (number !== null) {
      this.#digits.having(number, (n) => {
        found[this.#numbered[n] ?? 0] = 1;
      });
    }
    if (dated) {
      const { from, to } = dated;
      this.#withAll(dated.words).forEach((isThere, n) => {
        const at = this.#at[n] ?? NEVER;
        if (isThere === 1 && at >= from && at < to) found[n] = 1;
      });
    }
    const numbers: number[] = [];
    found.forEach((isFound, n) => isFound === 1 && numbers.push(n));
    return numbers;
  }

  /** 1 for each that has every word. */
  #withAll(words: readonly string[]): Uint8Array {
    let found = new Uint8Array(this.#at.length).fill(1);
    for (const word of words) {
      const having = new Uint8Array(found.length);
      this.#words.having(word, (n) => {
        having[n] = found[n] ?? 0;
      });
      found = having;
    }
    return found;
  }
}
