import { takenWhen, type Days } from './when.js';

/** What somebody looks for: words in any order, and days between which it was taken. */
export interface Ask {
  words: string[];
  taken: Days | null;
}

/** Words that say nothing of what is looked for. */
const idle = new Set('a an and from in of on one or that the to with for'.split(' '));
/** More words than these are not looked for. */
const WORDS = 8;

/** Understands one field of free words: “The one from spring, the grey tablet”. */
export function askOf(text: string, now: Date): Ask {
  const typed = text
    .toLowerCase()
    .split(/[\s,;]+/)
    .filter((word) => word !== '');
  const { days, rest } = takenWhen(typed, now);
  const words = rest.filter((word) => !idle.has(word));
  // Nothing but idle words: they are looked for as they stand.
  const meant = words.length > 0 || days ? words : rest;
  return { words: [...new Set(meant)].slice(0, WORDS), taken: days };
}
