import { askOf } from '../find/index.js';
import { digitsOf, folded, numberEnd } from './fold.js';

/** So many digits make a number that is looked for however it is written. */
const DIGITS_LEAST = 4;

/**
 * What somebody looks for, understood once: words in any order, or a number in any writing, or days as people say them. What fits
 * one of these is found.
 */
export class Meant {
  /** Folded; each has to be there. */
  readonly words: readonly string[];
  /** Digits; null where no number is meant. */
  readonly number: string | null;
  /** Days, ms since 1970, `to` not included, and the words beside them; null where none are meant. */
  readonly dated: { words: readonly string[]; from: number; to: number } | null;

  constructor(text: string, now: Date) {
    this.words = wordsOf(text);
    this.number = isNumber(text) ? numberEnd(text) : null;
    const { words, taken } = askOf(text, now);
    this.dated = taken && {
      words: words.flatMap(wordsOf),
      from: taken.from?.getTime() ?? -Infinity,
      to: taken.to?.getTime() ?? Infinity,
    };
  }

  /** Nothing was typed. */
  get isNothing(): boolean {
    return this.words.length === 0;
  }
}

const wordsOf = (text: string): string[] => folded(text).split(/\s+/).filter(Boolean);

/** A number, however it is written: nothing but digits and what people put between them. */
const isNumber = (text: string): boolean =>
  /^[\d\s()+./-]+$/.test(text) && digitsOf(text).length >= DIGITS_LEAST;
