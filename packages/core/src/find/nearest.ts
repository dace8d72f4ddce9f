import { distance } from 'fastest-levenshtein';

/** So many are taken for what was meant, where they are equally near. */
const MOST = 3;

/** How many slips of the hand are forgiven in a word: none in a short one, where everything is near to everything. */
const forgiven = (word: string) => (word.length < 4 ? 0 : word.length < 7 ? 1 : 2);

/** Two letters in each other's place are one slip. */
const isTurned = (one: string, other: string) =>
  one.length === other.length && sorted(one) === sorted(other);

const sorted = (word: string) => Array.from(word).sort().join('');

/**
 * What was meant by a word that nothing has: the nearest of those that there are, by letters that are wrong, missing, too many
 * or turned. Numbers are as they are typed: another number is another thing.
 * @param known small letters
 * @returns the nearest, in their order; the word itself where some known one has it, or none is near
 */
export function nearestWords(word: string, known: readonly string[]): string[] {
  if (/\d/.test(word) || forgiven(word) === 0) return [word];
  let nearest: string[] = [];
  let least = Infinity;
  for (const one of known) {
    if (one.includes(word)) return [word];
    if (Math.abs(one.length - word.length) > 2) continue;
    const far = isTurned(one, word) ? Math.min(1, distance(one, word)) : distance(one, word);
    if (far > forgiven(word) || far > least) continue;
    if (far < least) nearest = [];
    least = far;
    nearest.push(one);
  }
  return nearest.length === 0 ? [word] : nearest.sort().slice(0, MOST);
}
