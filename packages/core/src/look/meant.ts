import { askOf } from '../find/index.js';
import { digitsOf, folded, numberEnd } from './fold.js';

/** What can be found by its words, a number in it, or when it was. */
export interface Findable {
  /** Folded, as {@link folded} does it. */
  words: string;
  /** All digits in it, one after the other; empty where there are too few to be a number. */
  digits: string;
  /** UTC, ms since 1970; null for what has no time. */
  at: number | null;
}

/** So many digits make a number that is looked for however it is written. */
const DIGITS_LEAST = 4;

/** @param at null for what has no time */
export function findable(text: string, at: number | null): Findable {
  const isNumbered = /\d.*\d.*\d.*\d/.test(text);
  return { words: folded(text), digits: isNumbered ? digitsOf(text) : '', at };
}

/** What somebody looks for, understood once: words in any order, a number in any writing, days as people say them. */
export class Meant {
  readonly #words: string[];
  readonly #number: string | null;
  readonly #dated: { words: string[]; from: number; to: number } | null;

  constructor(text: string, now: Date) {
    this.#words = wordsOf(text);
    this.#number = isNumber(text) ? numberEnd(text) : null;
    const { words, taken } = askOf(text, now);
    this.#dated = taken && {
      words: words.flatMap(wordsOf),
      from: taken.from?.getTime() ?? -Infinity,
      to: taken.to?.getTime() ?? Infinity,
    };
  }

  /** Nothing was typed. */
  get isNothing(): boolean {
    return this.#words.length === 0;
  }

  fits({ words, digits, at }: Findable): boolean {
    if (this.#words.every((word) => words.includes(word))) return true;
    if (this.#number !== null && digits.includes(this.#number)) return true;
    const dated = this.#dated;
    return (
      dated !== null &&
      at !== null &&
      at >= dated.from &&
      at < dated.to &&
      dated.words.every((word) => words.includes(word))
    );
  }
}

const wordsOf = (text: string): string[] => folded(text).split(/\s+/).filter(Boolean);

/** A number, however it is written: nothing but digits and what people put between them. */
const isNumber = (text: string): boolean =>
  /^[\d\s()+./-]+$/.test(text) && digitsOf(text).length >= DIGITS_LEAST;
